/** As many different words as anybody knows; past it the answers are forgotten. */
const MOST = 100_000;

/** Answers about a word looked up from the second time on: most words come again and again. */
export function remembered<T>(about: (word: string) => T): (word: string) => T {
  const known = new Map<string, T>();
  return (word) => {
    let answer = known.get(word);
    if (answer === undefined) {
      answer = about(word);
      if (known.size >= MOST) known.clear();
      known.set(word, answer);
    }
    return answer;
  };
}
