import { type NextConfig } from 'next'

const config: NextConfig = {
  // No network at run time: fonts and icons are bundled.
  poweredByHeader: false,
  reactStrictMode: true,
  devIndicators: false,
  turbopack: { root: import.meta.dirname },
}

export default config
