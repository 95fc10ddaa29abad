/** The cookie by which a page says which of several brokers is its own. */
export const BROKER_COOKIE = 'heron-broker'
