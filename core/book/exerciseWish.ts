import { type Book } from './book'

/** Takes the trader's wish whether a contract is exercised when it expires into a book, in place. */
export function takeExerciseWish(book: Book, symbol: string, exercise: boolean): void {
  const others = book.notExercised.filter((one) => one !== symbol)
  book.notExercised = exercise ? others : [...others, symbol]
}
