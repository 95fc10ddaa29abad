/**
 * Version of the stand-in market. Another version gives other prices for the same seed and moment. A world belongs to the version
 * it was begun with, because its fills fit no other prices.
 */
export const MARKET_VERSION = 2
