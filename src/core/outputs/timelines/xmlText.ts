/** Root element of the interchange, as its document type names it. */
export const XML_ROOT = 'xmeml';

/** What no XML 1.0 text may hold, not even escaped. */
const FORBIDDEN = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|\p{Surrogate}/gu;

export const escapedXml = (text: string): string =>
  text.replace(FORBIDDEN, ' ').replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');

/** An element that holds text. */
export const leaf = (name: string, value: string | number): string =>
  `<${name}>${typeof value === 'number' ? value : escapedXml(value)}</${name}>`;

export const leaves = (values: Readonly<Record<string, string | number>>): string[] =>
  Object.entries(values).map(([name, value]) => leaf(name, value));

/** Texts that are joined at once. */
const AT_ONCE = 64;

/**
 * An element that holds others; those with an identifier stand on a line of their own. Many texts are joined a few at a time as they come,
 * so that neither all of them nor all that they were put together from are held at once.
 */
export function element(name: string, children: Iterable<string>, id?: string): string {
  let text = id === undefined ? `<${name}>` : `<${name} id="${escapedXml(id)}">`;
  let some: string[] = [];
  for (const child of children) {
    some.push(child);
    if (some.length < AT_ONCE) continue;
    text += some.join('');
    some = [];
  }
  text += some.join('');
  return id === undefined ? `${text}</${name}>` : `${text}</${name}>\n`;
}
