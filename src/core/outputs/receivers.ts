/** Who takes what is handed over, in general words. */
export const RECEIVERS = {
  editing: 'editing program',
  sound: 'sound editor',
  player: 'player',
  text: 'text',
  audience: 'audience',
} as const;
export type Receiver = keyof typeof RECEIVERS;
export const RECEIVER_NAMES = Object.keys(RECEIVERS) as [Receiver, ...Receiver[]];
