import { TranscriptError } from '../../transcript/word.ts';
import { isArchive, textOfDocument } from './documents.ts';

/** What a file says, and what is to be told of how it was read. */
export interface FileText {
  readonly text: string;
  readonly notes: readonly string[];
}

/** Control characters that no text has. */
const NO_TEXT = /[\0-\x08\x0e-\x19\x1c-\x1f]/;
/** So many bytes tell in what letters a file is written. */
const LOOKED_AT = 200_000;

/**
 * Text of a file of words, whatever program wrote it: UTF-8, UTF-16 by its first mark, the letters of one language (which are guessed, and the
 * guess told), or a document of a word processor.
 * @throws TranscriptError for a recording and other files that are no text, and for a damaged document
 */
export async function readTranscriptFile(bytes: Uint8Array): Promise<FileText> {
  if (isArchive(bytes)) return { text: await textOfDocument(bytes), notes: [] };
  const wide =
    bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : undefined;
  const text = decoded(bytes, wide ?? 'utf-8');
  if (text !== undefined) return { text, notes: [] };
  if (wide || bytes.includes(0)) throw new NoTextError();
  const { detect } = await import('chardet');
  const letters = detect(bytes.subarray(0, LOOKED_AT)) ?? 'windows-1252';
  const guessed = decoded(bytes, letters) ?? decoded(bytes, 'windows-1252') ?? '';
  if (NO_TEXT.test(guessed)) throw new NoTextError();
  return { text: guessed, notes: [`The file is not in UTF-8; it was read as ${letters}. Look at its accents.`] };
}

/** A file is no text. */
export class NoTextError extends TranscriptError {
  constructor() {
    super('This is no text: a recording, or another kind of file.');
  }
}

/** @returns undefined where bytes are no letters in this code, or the code is not known */
function decoded(bytes: Uint8Array, code: string): string | undefined {
  try {
    return new TextDecoder(code, { fatal: true }).decode(bytes);
  } catch {
    return undefined;
  }
}
