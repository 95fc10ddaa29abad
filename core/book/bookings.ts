import { type Booking } from '../orders/views'
import { toE4 } from '../market/money'
import { type Book } from './book'

/** Takes money that moved without a trade into a book, in place. */
export function takeBooking(book: Book, booking: Booking): void {
  book.cashE4 += toE4(booking.amount)
  book.bookings.push(booking)
}

/** Interest that an account pays a year on what it borrows, as a share (the stand-in's own schedule, on 360 days). */
const BORROWING_RATE = 0.06

/** Interest on the cash that an account owes over so many days, in e4; 0 where it owes none. */
export const interestE4 = ({ cashE4 }: Pick<Book, 'cashE4'>, days: number): number =>
  cashE4 < 0 ? Math.round((cashE4 * BORROWING_RATE * days) / 360) : 0
