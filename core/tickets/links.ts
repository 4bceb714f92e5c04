/** How one case has to do with another. */
export const links = ['like', 'split', 'follows', 'begun'] as const;
/** One of these ways. */
export type Link = (typeof links)[number];

/** What a case is to another, said at its end of the link and at the other. */
export const linkWords: Record<Link, { from: string; to: string }> = {
  like: { from: 'like', to: 'like' },
  split: { from: 'split off', to: 'had split off' },
  follows: { from: 'follows', to: 'was followed by' },
  begun: { from: 'begun from', to: 'began' },
};
