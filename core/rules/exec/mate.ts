/** Under this name stand the bars of the other security of a pair; no security is called so. */
export const MATE = '@mate'
