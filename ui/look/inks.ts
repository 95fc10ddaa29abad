/** The colours that a canvas draws with. */
export interface Inks {
  ink: string
  soft: string
  line: string
  paper: string
  up: string
  down: string
  accent: string
  value: string
  amber: string
}

/** Colours as they stand in the style sheet, for a canvas that knows no variables. */
export function inksOf(element: HTMLElement): Inks {
  const style = getComputedStyle(element)
  const get = (name: string) => style.getPropertyValue(`--${name}`).trim()
  return {
    ink: get('ink'),
    soft: get('ink-soft'),
    line: get('line'),
    paper: get('paper'),
    up: get('up'),
    down: get('down'),
    accent: get('accent'),
    value: get('value'),
    amber: get('amber'),
  }
}
