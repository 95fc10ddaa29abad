/**
 * What clients/typescript/heron.mjs is made of: the client of the broker's API, and how a script connects with a key file.
 * One file, for Node 20 alone; `npm run clients` makes it anew.
 */
export * from '../../client'
export { API_VERSION } from '../../core/orders/access'
export { connected as connect } from '../../cli/trading'
