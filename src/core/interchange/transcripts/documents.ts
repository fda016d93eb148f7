import { TranscriptError } from '../../transcript/word.ts';
import { attribute, inside, MOST_DEEP, type Node, nameOf, ownText, parseXml } from './xmlTree.ts';

/** A document of a word processor: a ZIP archive with its text in one file of XML. */
interface DocumentForm {
  /** the file in the archive that holds the text */
  readonly path: string;
  /** the element that holds all text */
  readonly body: string;
  readonly paragraphs: ReadonlySet<string>;
  readonly rows: ReadonlySet<string>;
  readonly breaks: ReadonlySet<string>;
  /** the one element whose text counts; without it all text does, its white space as one space */
  readonly run?: string;
  /** what is no text, was taken out, or is there a second time */
  readonly passedOver: ReadonlySet<string>;
}

/** Office Open XML (ECMA-376, part 1) and OpenDocument (ISO/IEC 26300). */
const FORMS: readonly DocumentForm[] = [
  {
    path: 'word/document.xml',
    body: 'body',
    paragraphs: new Set(['p']),
    rows: new Set(['tr']),
    breaks: new Set(['br', 'cr']),
    run: 't',
    passedOver: new Set(['del', 'moveFrom', 'Fallback', 'pPr']),
  },
  {
    path: 'content.xml',
    body: 'text',
    paragraphs: new Set(['p', 'h']),
    rows: new Set(['table-row']),
    breaks: new Set(['line-break']),
    passedOver: new Set(['tracked-changes', 'note', 'annotation', 'sequence-decls']),
  },
];

/** Text in a document comes to no more than this many bytes, as it is before it was packed. */
const MOST_BYTES = 100_000_000;
const MOST_SPACES = 100;

export const isArchive = (bytes: Uint8Array): boolean =>
  bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3 && bytes[3] === 4;

/**
 * Text of a document of a word processor (`.docx`, `.odt`): a line a paragraph, and a line a row of a table with tabs between its cells.
 * @throws TranscriptError for another archive, one that is damaged, or one that holds too much
 */
export async function textOfDocument(bytes: Uint8Array): Promise<string> {
  const { strFromU8, unzipSync } = await import('fflate');
  let unpacked: Readonly<Record<string, Uint8Array>>;
  try {
    unpacked = unzipSync(bytes, { filter: ({ name, originalSize }) => isHeld(name, originalSize) });
  } catch (error) {
    if (error instanceof TranscriptError) throw error;
    throw new TranscriptError('The document is damaged: it cannot be unpacked.');
  }
  const form = FORMS.find(({ path }) => unpacked[path]);
  if (!form) throw new TranscriptError('This is an archive, and none of its files is the text of a document.');
  const root = await parseXml(strFromU8(unpacked[form.path] as Uint8Array));
  const body = bodyIn(root, form.body);
  if (!body) throw new TranscriptError('The document holds no text.');
  return linesIn(body, form).join('\n');
}

function isHeld(name: string, size: number): boolean {
  if (!FORMS.some(({ path }) => path === name)) return false;
  if (size > MOST_BYTES) throw new TranscriptError(`The document holds more than ${MOST_BYTES / 1e6} MB of text.`);
  return true;
}

function bodyIn(nodes: readonly Node[], name: string, depth = 0): Node | undefined {
  if (depth > MOST_DEEP) return undefined;
  for (const node of nodes) {
    const found = nameOf(node) === name && ownText(node) === undefined ? node : bodyIn(inside(node), name, depth + 1);
    if (found) return found;
  }
  return undefined;
}

/** Text of paragraphs and rows, in their order. */
function linesIn(node: Node, form: DocumentForm, depth = 0): string[] {
  if (depth > MOST_DEEP) throw new TranscriptError('The document is nested too deeply.');
  return inside(node).flatMap((child) => {
    const name = nameOf(child);
    if (form.passedOver.has(name)) return [];
    if (form.paragraphs.has(name)) return [textIn(child, form, depth)];
    // Cells stand side by side, each with what is in it on one line.
    if (form.rows.has(name))
      return [
        inside(child)
          .map((cell) => linesIn(cell, form, depth + 1).join(' '))
          .join('\t')
          .trim(),
      ];
    return linesIn(child, form, depth + 1);
  });
}

function textIn(node: Node, form: DocumentForm, depth: number): string {
  if (depth > MOST_DEEP) throw new TranscriptError('The document is nested too deeply.');
  const name = nameOf(node);
  return inside(node)
    .map((child) => {
      const text = ownText(child);
      if (text !== undefined) return form.run === undefined ? text.replace(/\s+/g, ' ') : form.run === name ? text : '';
      const kind = nameOf(child);
      if (form.passedOver.has(kind)) return '';
      if (form.breaks.has(kind)) return '\n';
      if (kind === 'tab') return '\t';
      if (kind === 's') return ' '.repeat(Math.min(MOST_SPACES, Number(attribute(child, 'c') ?? 1) || 1));
      return textIn(child, form, depth + 1);
    })
    .join('');
}
