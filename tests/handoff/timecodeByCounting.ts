// Shares no code with the writers: labels are found by counting, as a deck does, and not by a formula.

export interface Counting {
  /** frames that a second of labels has */
  readonly base: number;
  readonly drop: boolean;
}

/** All labels of an hour in order, dropped numbers left out, by `mm:ss:ff`. */
function hourOf({ base, drop }: Counting): string[] {
  const two = (value: number) => String(value).padStart(2, '0');
  const labels: string[] = [];
  for (let minute = 0; minute < 60; minute++)
    for (let second = 0; second < 60; second++)
      for (let frame = 0; frame < base; frame++) {
        const isDropped = drop && second === 0 && minute % 10 !== 0 && frame < base / 15;
        if (!isDropped) labels.push(`${two(minute)}:${two(second)}:${two(frame)}`);
      }
  return labels;
}

/** Counts labels: hour by hour, each as long as the list of its labels. */
export class Deck {
  private readonly labels: readonly string[];
  private readonly places: ReadonlyMap<string, number>;

  constructor(counting: Counting) {
    this.labels = hourOf(counting);
    this.places = new Map(this.labels.map((label, k) => [label, k]));
  }

  get day(): number {
    return this.labels.length * 24;
  }

  /** Frames since midnight of a label. */
  count(label: string): number {
    const [hour = '', ...rest] = label.replace(/[;.]/g, ':').split(':');
    const place = this.places.get(rest.join(':'));
    if (place === undefined || Number(hour) > 23) throw new Error(`no such label: ${label}`);
    return Number(hour) * this.labels.length + place;
  }
}
