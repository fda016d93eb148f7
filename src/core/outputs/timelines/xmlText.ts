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

/** An element that holds others; those with an identifier stand on a line of their own. */
export const element = (name: string, children: readonly string[], id?: string): string =>
  id === undefined
    ? `<${name}>${children.join('')}</${name}>`
    : `<${name} id="${escapedXml(id)}">${children.join('')}</${name}>\n`;
