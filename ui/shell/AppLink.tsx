'use client'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { type ComponentProps } from 'react'

/**
 * A link to another screen, which is asked for when the link is pointed at or reached by key. Asked for as soon as links come
 * into view, all of them at once, they would take the time of the rows that one came for.
 */
export function AppLink({
  href,
  prefetch = false,
  ...rest
}: Omit<ComponentProps<typeof Link>, 'href'> & { href: string }) {
  const router = useRouter()
  const ask = () => router.prefetch(href)
  return <Link {...rest} href={href} prefetch={prefetch} onPointerEnter={ask} onFocus={ask} />
}
