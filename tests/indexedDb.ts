import Dexie from 'dexie'
import { IDBKeyRange, indexedDB } from 'fake-indexeddb'

// Import this before anything that opens a database: Dexie takes what stands here.
Dexie.dependencies.indexedDB = indexedDB
Dexie.dependencies.IDBKeyRange = IDBKeyRange
