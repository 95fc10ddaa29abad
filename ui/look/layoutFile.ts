import * as z from 'zod'
import { LookLayout } from '@/store/shapes'

/** The file form of a chart's layout, to be handed to others. */
const LayoutFile = z.object({
  form: z.literal('fleet-heron-look'),
  version: z.literal(1),
  layout: LookLayout,
})

export const layoutText = (layout: LookLayout): string =>
  JSON.stringify({ form: 'fleet-heron-look', version: 1, layout }, null, 2)

/** Reads a layout. Throws RangeError with the place and the mend where the text is none. */
export function readLayout(text: string): LookLayout {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw new RangeError('This is not a layout: it is not JSON. Choose a file that “Save the layout” made.')
  }
  const read = LayoutFile.safeParse(json)
  if (read.success) return read.data.layout
  const [issue] = read.error.issues
  throw new RangeError(
    `This is not a layout: ${issue.path.join('.') || 'the file'}: ${issue.message}. Nothing was changed.`,
  )
}
