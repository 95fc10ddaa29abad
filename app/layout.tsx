import '@mantine/core/styles.css'
import '@mantine/spotlight/styles.css'
import '@mantine/notifications/styles.css'
import '@fontsource/ibm-plex-sans/400.css'
import '@fontsource/ibm-plex-sans/500.css'
import '@fontsource/ibm-plex-sans/600.css'
import '@fontsource/ibm-plex-sans/700.css'
import '@fontsource/ibm-plex-mono/400.css'
import '@fontsource/ibm-plex-mono/600.css'
import '@fontsource/source-serif-4/400.css'
import '@fontsource/source-serif-4/400-italic.css'
import '@fontsource/source-serif-4/600.css'
import './global.css'
import { ColorSchemeScript, mantineHtmlProps } from '@mantine/core'
import { type Metadata } from 'next'
import { type ReactNode } from 'react'
import { earlyScript } from '@/ui/services/early'
import { Shell } from '@/ui/shell/Shell'
import { pageBroker } from './pageBroker'

/** The title is the headline's: it tells the account. */
export const metadata: Metadata = { description: 'Scan, look, order on paper, watch.' }

/** The broker's address is known when the server runs, not when it is built. */
export const dynamic = 'force-dynamic'

export default async function Layout({ children }: { children: ReactNode }) {
  const { url: brokerUrl } = await pageBroker()
  return (
    <html lang="en" {...mantineHtmlProps}>
      <head>
        <ColorSchemeScript defaultColorScheme="auto" />
        <script dangerouslySetInnerHTML={{ __html: earlyScript(brokerUrl) }} />
      </head>
      <body>
        <Shell brokerUrl={brokerUrl}>{children}</Shell>
      </body>
    </html>
  )
}
