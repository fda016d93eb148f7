/** What becomes of what goes, on the timeline. */
export const REMOVED_AS = ['gone', 'disabled', 'marked'] as const;
export type RemovedAs = (typeof REMOVED_AS)[number];

/** What becomes of the tracks that only follow. */
export const FOLLOWERS_AS = ['along', 'muted', 'left out'] as const;
export type FollowersAs = (typeof FOLLOWERS_AS)[number];

/** What may be marked; more than one at a time. */
export const MARKABLE = ['open', 'chapters', 'reasons', 'removed'] as const;
export type Markable = (typeof MARKABLE)[number];
