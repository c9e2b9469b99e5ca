/** Where a test stands: day 4 of 8, or how long its last count has been due. */
export function dayOf(t: { day: number; days: number }): string {
  const day = Math.floor(t.day)
  const over = day - Math.round(t.days)
  return over > 0
    ? `Day ${day}, ${over} day${over === 1 ? '' : 's'} after its last count was due`
    : `Day ${day} of ${t.days}`
}
