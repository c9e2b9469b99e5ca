/** What every field says of itself: its name, what is wrong, what helps. */
export type About = { label: string; name?: string; wrong?: string; help?: string }
/** That part of a field's properties, for its frame. */
export const about = ({ label, name, wrong, help }: About): About => ({ label, name, wrong, help })
