#!/usr/bin/env node
import { ensureBuild, ensurePackages, requireNode } from './lib.mjs'

/** Builds the application, as the demo and the tests do before they start it. */
requireNode()
await ensurePackages()
await ensureBuild()
