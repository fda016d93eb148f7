/**
 * A file name as it may be shown and written into cut lists: the last part of a path, without control characters and
 * without marks that turn the direction of the text round it.
 */
export function cleanName(name: string): string {
  const last = name.split(/[\\/]/).at(-1) ?? '';
  const clean = last
    .replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]/gu, '')
    .replace(/\s+/g, ' ')
    .trim();
  // Whole characters: half of one can be kept nowhere.
  const short = [...clean]
    .slice(-200)
    .join('')
    .replace(/\p{Surrogate}/gu, '');
  return /[^.\s]/.test(short) ? short : 'recording';
}
