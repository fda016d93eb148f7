import { plainWord } from './plainWord.ts';

const HELD = /^(?:u+m+|[uea]+h+m*|e+r+m*|o+h+|h+m+|m{2,})$/;

/** Whether a word is what people hold while they think, as long as they like: `um`, `erm`, `hmm`. */
export const isHeld = (text: string): boolean => HELD.test(plainWord(text));
