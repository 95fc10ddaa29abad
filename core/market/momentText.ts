import * as z from 'zod'

/** A moment in a file: a date and time with an offset, as people write it. Numbers of older files are epoch milliseconds. */
export const Moment = z
  .union([z.iso.datetime({ offset: true }).transform((text) => Date.parse(text)), z.number()])
  .meta({
    description:
      'Date and time with an offset, 2026-03-16T11:05:00-03:00; epoch milliseconds are taken as well',
  })

/** A moment as a file holds it. */
export const momentText = (moment: number): string => new Date(moment).toISOString()
