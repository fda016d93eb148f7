/**
 * Chooses some of many at random, likelier ones by weight, without replacement (Efraimidis and Spirakis 2006). Chance comes from the
 * names: the same ones are chosen again while the rest changes, and no name is likelier than another.
 */
export function weightedSample(items: readonly { readonly id: string; readonly weight: number }[], count: number): Set<string> {
  const keyed = items.filter(({ weight }) => weight > 0).map(({ id, weight }) => ({ id, key: Math.log(chanceOf(id)) / weight }));
  return new Set(
    keyed
      .sort((a, b) => b.key - a.key || (a.id < b.id ? -1 : 1))
      .slice(0, count)
      .map(({ id }) => id),
  );
}

/** A name as a number between 0 and 1, evenly spread: FNV-1a with the final mixing of MurmurHash3. */
function chanceOf(name: string): number {
  let hash = 0x811c9dc5;
  for (let k = 0; k < name.length; k++) hash = Math.imul(hash ^ name.charCodeAt(k), 0x01000193);
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
  return (((hash ^ (hash >>> 16)) >>> 0) + 0.5) / 2 ** 32;
}
