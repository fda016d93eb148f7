import { createStore } from 'zustand';
import { readTranscriptFile } from '@/core/interchange/transcripts/transcriptFile.ts';
import { MAX_TRANSCRIPT_BYTES } from '@/core/transcript/word.ts';
import { languageName } from '@/ui/LanguageSelect.tsx';
import type { Message } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import type { EpisodeModel } from '../episode/session/model.ts';

/** Endings of files that hold words. */
export const WORD_ENDINGS = '.json,.vtt,.srt,.ttml,.xml,.ctm,.sbv,.tsv,.txt,.text,.md,.docx,.odt';

/** Whether a file that is dropped holds words, as its ending says. */
export const holdsWords = ({ name }: File): boolean =>
  WORD_ENDINGS.split(',').some((ending) => name.toLowerCase().endsWith(ending));

/** What words wait for. */
const WAITING = {
  recogniser: 'The recogniser listens for where these words are said.',
  reading: 'There are many words to be read: they appear when that is done. You can leave this page.',
};

/** What came of the words that were brought last. */
interface Brought {
  /** `onTop` where no button is near: they were dropped, or are the first ones, which change what the tray shows */
  readonly said?: (Message & { readonly onTop: boolean }) | undefined;
}

export const brought = createStore<Brought>(() => ({}));

/**
 * Brings a transcript of any format that is read into an episode, and says what came of it.
 * @param recording whose words they are; of what was dropped, the one of its name, or else the first
 */
export async function bringWords(model: EpisodeModel, file: File, recording?: string): Promise<void> {
  const { words: before, detail } = model.state;
  const onTop = recording === undefined || before.length === 0;
  const say = (text: string, bad = false) => brought.setState({ said: { text, bad, onTop } });
  const named = detail?.recordings.find(({ fileName }) => stemOf(fileName) === stemOf(file.name));
  say(`Reading ${file.name} …`);
  try {
    if (file.size > MAX_TRANSCRIPT_BYTES) throw tooLarge(file.size);
    const { text, notes: ofFile } = await readTranscriptFile(new Uint8Array(await file.arrayBuffer()));
    // Quotes and ends of lines take more room on their way than in the file.
    const bytes = new Blob([JSON.stringify(text)]).size;
    if (bytes > MAX_TRANSCRIPT_BYTES) throw tooLarge(bytes);
    const { words, language, notes, queued } = await api.importWords(model.id, text, recording ?? named?.id);
    const done = queued ? WAITING[queued] : `${words} words brought in${language ? ` (${languageName(language)})` : ''}.`;
    say([done, ...ofFile, ...notes].join('\n'));
    await model.refresh();
  } catch (error) {
    say(`${(error as Error).message} Nothing was changed.`, true);
  }
}

/** A name up to its first point: `talk.words.json` belongs to `talk.mov`. */
const stemOf = (name: string): string => name.toLowerCase().split('.', 1)[0] ?? '';

const tooLarge = (bytes: number): Error => {
  const [own, most] = [bytes, MAX_TRANSCRIPT_BYTES].map((size) => `${Math.ceil(size / 1e6)} MB`);
  return new Error(`That comes to ${own}; ${most} of words is the most.`);
};
