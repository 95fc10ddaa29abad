/** The one client of the broker's API: fetch and nothing else, for the page, workers, scripts and the command line. */
export { Access, baseOf, type WorldName, type Granted, granted, keyTokens, type TokenSource } from './access'
export { Broker } from './broker'
export { clOrdIdOf } from './ids'
export { follow, type StreamEvent } from './follow'
export { priceAsked } from './priceAsked'
export { BrokerProblem, problemOf, unreachable } from './problem'
