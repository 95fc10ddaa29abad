import { MantineProvider } from '@mantine/core'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, configure, render } from '@testing-library/react'
import { type ReactNode } from 'react'
import { ServicesContext } from '@/ui/link/LinkProvider'
import { type Services } from '@/ui/services/services'

// What is waited for may take its time on a busy machine.
configure({ asyncUtilTimeout: 60_000 })

// What Mantine asks of a browser that jsdom does not have.
Object.assign(globalThis, {
  ResizeObserver: class {
    observe = () => undefined
    unobserve = () => undefined
    disconnect = () => undefined
  },
  matchMedia: () => ({
    matches: false,
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
  }),
})
Element.prototype.scrollIntoView = () => undefined

/** Draws a part of the page over services that the test gives. */
export function draw(part: ReactNode, services: Partial<Services> = {}): void {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  render(
    <MantineProvider env="test">
      <QueryClientProvider client={queries}>
        <ServicesContext.Provider value={services as Services}>{part}</ServicesContext.Provider>
      </QueryClientProvider>
    </MantineProvider>,
  )
}

export { cleanup }
