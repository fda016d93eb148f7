import anyAscii from 'any-ascii';

/** Names that an edit decision list means something else by: black, and a source without a name. */
const RESERVED = ['BL', 'AX'];
const LETTERS = 8;
/** Letters of a long name that are kept; the others tell it apart from those that begin alike. */
const KEPT = 5;

/**
 * A reel for each file: eight letters or digits at most, ASCII. A longer name keeps its first letters and ends in three that follow from
 * all of it, so that two files that begin alike differ in every list.
 * @param wanted what somebody wants the reels to be called; several get a number
 */
export function reelNames(fileNames: readonly string[], wanted = ''): string[] {
  const names: string[] = [];
  const base = plainReel(wanted);
  for (const [k, fileName] of fileNames.entries()) {
    const own = base === '' ? reelOf(fileName) : fileNames.length === 1 ? base.slice(0, LETTERS) : numbered(base, k + 1);
    let name = RESERVED.includes(own) ? `${own}R` : own;
    for (let n = 2; names.includes(name); n++) name = numbered(own, n);
    names.push(name);
  }
  return names;
}

const plainReel = (text: string): string =>
  anyAscii(text)
    .toUpperCase()
    .replace(/[^A-Z0-9]/g, '');

function reelOf(fileName: string): string {
  const whole = plainReel(fileName.replace(/\.[^.]*$/, '')) || 'REEL';
  return whole.length <= LETTERS ? whole : `${whole.slice(0, KEPT)}${markOf(fileName)}`;
}

const numbered = (name: string, number: number): string => `${name.slice(0, LETTERS - String(number).length)}${number}`;

/** Three letters that follow from a text (FNV-1a, in base 36). */
function markOf(text: string): string {
  let hash = 0x811c9dc5;
  for (const sign of text) hash = Math.imul(hash ^ (sign.codePointAt(0) as number), 0x01000193) >>> 0;
  return (hash % 36 ** 3).toString(36).toUpperCase().padStart(3, '0');
}

const MOST_TITLE = 70;

/** A title as the oldest programs read it: one line of ASCII, seventy letters at most, never empty. */
export function plainTitle(title: string): string {
  const plain = anyAscii(title.replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]+/gu, ' '))
    .replace(/[^\x20-\x7e]/g, '')
    .replace(/ +/g, ' ')
    .trim()
    .slice(0, MOST_TITLE)
    .trim();
  return plain || 'Untitled';
}
