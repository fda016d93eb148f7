/** Something that is remembered between answers, and what it is before anything is. Named once, by the module that uses it. */
export interface Remembered<T> {
  readonly begin: () => T;
}

/** All that is remembered for one text and its corrections. Whoever owns it, a session, decides how long it lasts. */
export class Memory {
  private readonly held = new Map<Remembered<unknown>, unknown>();

  of<T>(what: Remembered<T>): T {
    const known = this.held.get(what) as T | undefined;
    if (known !== undefined) return known;
    const begun = what.begin();
    this.held.set(what, begun);
    return begun;
  }
}
