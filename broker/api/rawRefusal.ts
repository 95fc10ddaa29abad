import { type Duplex } from 'node:stream'
import { Problem } from './problems'

/** What the HTTP parser says of a request, as a problem. */
function problemFrom(code: string | undefined): Problem {
  if (code === 'HPE_HEADER_OVERFLOW')
    return new Problem('headers-too-large', 'The headers are too large.', 'Send at most 16 kB of headers.')
  if (code === 'ERR_HTTP_REQUEST_TIMEOUT')
    return new Problem('request-timeout', 'The request did not come to an end.', 'Send it again, whole.')
  return new Problem(
    'malformed-request',
    'This is not an HTTP/1.1 request that can be read.',
    'Check the request line, the Host header and the line ends; a percent sign in a path is written %25.',
  )
}

const REASONS: Record<number, string> = {
  400: 'Bad Request',
  408: 'Request Timeout',
  431: 'Request Header Fields Too Large',
}

/** Answers a request whose address could not be read. */
export const refuseUnread = (error: unknown): Response => {
  const document = new Problem(
    'malformed-request',
    `The address cannot be read: ${(error as Error).message.slice(0, 80)}.`,
    'Check the path and the Host header.',
  ).document()
  return Response.json(document, {
    status: document.status,
    headers: { 'Content-Type': 'application/problem+json' },
  })
}

/** Answers what never became a request: the parser's refusals are problem documents like all others. */
export function refuseRaw(error: NodeJS.ErrnoException, socket: Duplex): void {
  if (error.code === 'ECONNRESET' || !socket.writable) {
    socket.destroy()
    return
  }
  const document = problemFrom(error.code).document()
  const body = JSON.stringify(document)
  socket.end(
    [
      `HTTP/1.1 ${document.status} ${REASONS[document.status]}`,
      'Content-Type: application/problem+json',
      `Content-Length: ${Buffer.byteLength(body)}`,
      'Connection: close',
      '',
      body,
    ].join('\r\n'),
  )
}
