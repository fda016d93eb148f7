/** One figure of the table. */
export interface Line {
  what: string;
  value: string;
  goal: string;
  ok: boolean;
}
