/** Dates in the words of the reader's language. Making a formatter takes longer than to use it a hundred times. */

const DAY = new Intl.DateTimeFormat([], { day: 'numeric', month: 'short' })
const TIME = new Intl.DateTimeFormat([], { hour: '2-digit', minute: '2-digit' })

/** Day, month and time. */
export const shortDate = (date: Date) => `${DAY.format(date)} ${TIME.format(date)}`
/** The time of day. */
export const timeOfDay = (date: Date) => TIME.format(date)
