/** Vowels of alphabets that write them, with all their marks taken off. */
const VOWEL_GROUP = /[aeiouyæøœɑəаеёиоуыэюяіїєαεηιουω]+/gu;
/** Scripts in which about every sign is a syllable: Chinese, Japanese, Korean, and those of South Asia with their marks. */
const SYLLABIC =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}\p{Script=Devanagari}\p{Script=Bengali}\p{Script=Tamil}\p{Script=Thai}]/gu;

/** Seconds of ordinary speech, roughly: only their proportions count. */
const PER_SYLLABLE = 0.11;
const PER_CONSONANT = 0.035;
const PER_DIGIT = 0.25;
const LEAST = 0.08;

/** How long a word takes to say beside others, by rules that know no language: groups of vowels, and what is round them. */
export function spokenWeight(word: string): number {
  const plain = word.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
  const digits = plain.match(/\p{N}/gu)?.length ?? 0;
  const signs = plain.match(SYLLABIC)?.length ?? 0;
  const groups = plain.match(VOWEL_GROUP) ?? [];
  const vowels = groups.reduce((sum, group) => sum + group.length, 0);
  const letters = plain.match(/\p{L}/gu)?.length ?? 0;
  const syllables = Math.max(groups.length, letters > signs ? 1 : 0) + signs;
  const consonants = Math.max(0, letters - vowels - signs);
  return Math.max(LEAST, syllables * PER_SYLLABLE + consonants * PER_CONSONANT + digits * PER_DIGIT);
}
