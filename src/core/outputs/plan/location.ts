/** A path as the parts of a URI, its separators kept. */
const encodedPath = (path: string): string => path.split('/').map(encodeURIComponent).join('/');

/**
 * Where a file lies for whoever opens the timeline: a folder of their machine and the path within it as a URI, or a path relative to the
 * timeline's own file.
 * @param folder as people write it: `/Volumes/Workshop`, `C:\Workshop`, `\\server\share`, a `file:` URI, or a path relative to the timeline
 * @param path within the folder, with `/` between its parts
 */
export function locationIn(folder: string, path: string): string {
  const plain = folder.trim().replaceAll('\\', '/').replace(/\/+$/, '');
  const below = encodedPath(path.replaceAll('\\', '/'));
  if (/^[a-z][a-z0-9+.-]+:\/\//i.test(plain)) return `${encodeURI(decoded(plain))}/${below}`;
  const drive = /^([a-z]):(\/.*)?$/i.exec(plain);
  if (drive) return `file:///${drive[1]}:${encodedPath(drive[2] ?? '')}/${below}`;
  if (plain.startsWith('//')) return `file:${encodedPath(plain)}/${below}`;
  if (plain.startsWith('/') || (plain === '' && folder.trim() !== '')) return `file://${encodedPath(plain)}/${below}`;
  return plain === '' || plain === '.' ? below : `${encodedPath(plain)}/${below}`;
}

function decoded(text: string): string {
  try {
    return decodeURI(text);
  } catch {
    return text;
  }
}
