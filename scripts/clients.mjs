import { build } from 'esbuild'

/** Makes clients/typescript/heron.mjs: the client as one file that Node runs without anything installed. */
export const CLIENT = 'clients/typescript/heron.mjs'

export async function makeClient(outfile = CLIENT) {
  await build({
    entryPoints: ['clients/typescript/client.ts'],
    outfile,
    bundle: true,
    minify: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    charset: 'utf8',
    legalComments: 'eof',
    banner: {
      js: '// Made of clients/typescript/client.ts by `npm run clients`; not to be changed by hand.',
    },
    tsconfig: 'tsconfig.json',
    logLevel: 'warning',
  })
}

if (process.argv[1]?.endsWith('clients.mjs')) await makeClient()
