/** The words of a list, as they are compared. */
export const wordSet = (list: string): ReadonlySet<string> => new Set(list.split(' '));

/** Words that want a noun behind them: no English sentence ends with one. */
export const ARTICLES = wordSet('the a an my your our their its every');
/** Words that begin what names a thing. */
export const DETERMINERS: ReadonlySet<string> = new Set([...ARTICLES, ...wordSet('this that these those his her some each no')]);
export const PREPOSITIONS = wordSet(
  'in on at to from of for with by about after before over under through into onto behind near',
);
