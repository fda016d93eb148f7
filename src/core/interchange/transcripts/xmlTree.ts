import { TranscriptError } from '../../transcript/word.ts';

/** An element as it was parsed, what it holds in order: its one name that is no `:@` leads to that. */
export type Node = Readonly<Record<string, unknown>>;

const ATTRIBUTES = ':@';
const TEXT = '#text';

/** Elements are nested less deeply than this by anybody but an attacker. */
export const MOST_DEEP = 40;

/**
 * Elements of a file in their order, names and attributes without their namespace. Names that the file defines are refused, not followed.
 * @throws TranscriptError for what is no XML
 */
export async function parseXml(file: string): Promise<readonly Node[]> {
  if (/<!(?:ENTITY|DOCTYPE)/i.test(file)) throw new TranscriptError('The file defines names of its own, which are not followed.');
  // Pages that only write transcripts do without.
  const { XMLParser } = await import('fast-xml-parser');
  try {
    return new XMLParser({
      preserveOrder: true,
      ignoreAttributes: false,
      attributeNamePrefix: '',
      parseTagValue: false,
      parseAttributeValue: false,
      removeNSPrefix: true,
      trimValues: false,
      // Letters by their numbers are read among these.
      htmlEntities: true,
    }).parse(file.replace(/^\uFEFF/, '')) as Node[];
  } catch (error) {
    throw new TranscriptError(`The file is no XML: ${(error as Error).message}`);
  }
}

export const nameOf = (node: Node): string => Object.keys(node).find((key) => key !== ATTRIBUTES) ?? '';

/** Elements and text in an element. */
export const inside = (node: Node): readonly Node[] => {
  const held = node[nameOf(node)];
  return Array.isArray(held) ? held : [];
};

/** What text there is, if this is none but text. */
export const ownText = (node: Node): string | undefined => {
  const text = node[TEXT];
  return typeof text === 'string' ? text : undefined;
};

export const attribute = (node: Node, name: string): string | undefined => {
  const value = (node[ATTRIBUTES] as Readonly<Record<string, unknown>> | undefined)?.[name];
  return typeof value === 'string' && value !== '' ? value : undefined;
};
