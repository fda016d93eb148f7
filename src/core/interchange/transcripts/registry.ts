import type { RoughTranscript } from '../../transcript/roughTranscript.ts';
import { TranscriptError } from '../../transcript/word.ts';
import { ctm } from './ctm.ts';
import type { TranscriptFormat } from './format.ts';
import { srt } from './srt.ts';
import { text } from './text.ts';
import { vtt } from './vtt.ts';
import { wordsJson } from './words-json.ts';

/** Every transcript format there is; plain text, which anything looks like, comes last. */
export const TRANSCRIPT_FORMATS: readonly TranscriptFormat[] = [wordsJson, vtt, srt, ctm, text];

export const transcriptFormatOf = (ending: string): TranscriptFormat | undefined =>
  TRANSCRIPT_FORMATS.find(({ id, endings }) => id === ending || endings?.includes(ending));

/** Reads a transcript of any known format: by its content, whatever its ending says. @throws TranscriptError */
export async function readAny(file: string): Promise<RoughTranscript> {
  if (file.includes('\0')) throw new TranscriptError('This is no text: a recording, or another kind of file.');
  const format = TRANSCRIPT_FORMATS.find((one) => one.looksLike(file)) as TranscriptFormat;
  const { passages, ...rest } = await format.read(file);
  return {
    ...rest,
    // An escape in JSON can name what no text can hold.
    passages: passages.map(({ tokens, speaker, ...times }) => ({
      ...times,
      speaker: clean(speaker),
      tokens: tokens.map((token) => ({ ...token, text: clean(token.text) })),
    })),
  };
}

const clean = (text: string): string => text.replaceAll('\0', '').replace(/\p{Surrogate}/gu, '\ufffd');
