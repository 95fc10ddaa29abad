/** Sections in the order of the day, each with the letter that jumps to it. */
export const SECTIONS = [
  { name: 'Find', path: '/find', key: 'f', does: 'scan securities with a rule' },
  { name: 'Look', path: '/look', key: 'l', does: 'examine one security on a chart' },
  { name: 'Plan', path: '/plan', key: 'p', does: 'rules that become orders, with checks' },
  { name: 'Desk', path: '/desk', key: 'd', does: 'orders, executions, positions, account' },
  { name: 'Sheet', path: '/sheet', key: 's', does: 'send orders from a spreadsheet' },
] as const
