/**
 * Counts changes of the stand-in market: another version tells other prices of the same seed and moment. A world keeps the
 * version it was begun with, since what happened in it fits no other.
 */
export const MARKET_VERSION = 2
