import { LOOKED_AT, languageOf } from '../../transcript/language.ts';
import type { Passage, RoughTranscript } from '../../transcript/roughTranscript.ts';
import { isSaid } from '../../transcript/word.ts';
import { ctm } from './ctm.ts';
import type { TranscriptFormat, TranscriptReader } from './format.ts';
import { segmentsJson } from './segments.ts';
import { srt } from './srt.ts';
import { text } from './text.ts';
import { NoTextError, readTranscriptFile } from './transcriptFile.ts';
import { ttml } from './ttml.ts';
import { vtt } from './vtt.ts';
import { wordsJson } from './words-json.ts';

/** Every format that transcripts are written in; plain text, which anything looks like, comes last. */
export const TRANSCRIPT_FORMATS: readonly TranscriptFormat[] = [wordsJson, vtt, srt, ctm, text];

/** Every form that is read, the narrowest first. */
const READERS: readonly TranscriptReader[] = [segmentsJson, ttml, ...TRANSCRIPT_FORMATS];

export const transcriptFormatOf = (ending: string): TranscriptFormat | undefined =>
  TRANSCRIPT_FORMATS.find(({ id, endings }) => id === ending || endings?.includes(ending));

/** Reads a transcript of any known format: by its content, whatever its ending says. Where it names no language, its words tell. @throws TranscriptError */
export async function readAny(file: string): Promise<RoughTranscript> {
  if (file.includes('\0')) throw new NoTextError();
  const reader = READERS.find((one) => one.looksLike(file)) as TranscriptReader;
  const read = await reader.read(file);
  // An escape in JSON can name what no text can hold.
  const passages = read.passages.map(({ tokens, speaker, ...times }) => ({
    ...times,
    speaker: clean(speaker),
    tokens: tokens.map((token) => ({ ...token, text: clean(token.text) })),
  }));
  const language = read.language ?? languageOf(wordsOf(passages));
  return { ...read, ...(language && { language }), passages };
}

/** Reads a file of words: what `readAny` reads, in any letters or in a document. @throws TranscriptError */
export async function readAnyFile(bytes: Uint8Array): Promise<RoughTranscript> {
  const { text: said, notes } = await readTranscriptFile(bytes);
  const read = await readAny(said);
  return { ...read, notes: [...notes, ...read.notes] };
}

function wordsOf(passages: readonly Passage[]): string[] {
  const words: string[] = [];
  for (const { tokens } of passages) {
    for (const { text } of tokens) if (isSaid(text)) words.push(text);
    if (words.length >= LOOKED_AT) break;
  }
  return words;
}

/** Text that any place can hold, its letters in one code with their accents: `ä` may come as `a` and two dots, and would be another word. */
const clean = (text: string): string =>
  text
    .replaceAll('\0', '')
    .replace(/\p{Surrogate}/gu, '\ufffd')
    .normalize('NFC');
