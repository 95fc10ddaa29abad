import { type NextConfig } from 'next'

const config: NextConfig = {
  // No network at run time: fonts and icons are bundled.
  poweredByHeader: false,
  reactStrictMode: true,
  devIndicators: false,
  // The page stands apart from others, so that its workers may share memory.
  headers: async () => [
    {
      source: '/:path*',
      headers: [
        { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
        { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
      ],
    },
  ],
  // Types are checked by npm test, once.
  typescript: { ignoreBuildErrors: true },
  // Source maps take a tenth of the build; whoever looks for a fault runs `npm run dev`.
  experimental: { turbopackSourceMaps: false },
  turbopack: { root: import.meta.dirname },
}

export default config
