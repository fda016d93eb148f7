/** Tags of the languages that are told apart, by the codes (ISO 639-3) that they are told by. */
export const TAGS: Readonly<Record<string, string>> = {
  eng: 'en',
  deu: 'de',
  fra: 'fr',
  spa: 'es',
  ita: 'it',
  nld: 'nl',
  por: 'pt',
  swe: 'sv',
  pol: 'pl',
  ces: 'cs',
  hun: 'hu',
  ron: 'ro',
  tur: 'tr',
  rus: 'ru',
  ukr: 'uk',
  arb: 'ar',
  hin: 'hi',
  jpn: 'ja',
  kor: 'ko',
  cmn: 'zh',
  vie: 'vi',
  ind: 'id',
};

export const TOLD_LANGUAGES: readonly string[] = Object.values(TAGS);
