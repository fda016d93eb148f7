/** As many different words as anybody knows; past it the answers are forgotten. */
const MOST = 100_000;

/** Answers about a word looked up from the second time on: most words come again and again. */
export function memoize<T>(about: (word: string) => T): (word: string) => T {
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

/** What takes its time, worked out when it is first asked for. */
export function once<T>(work: () => T): () => T {
  let answer: { readonly value: T } | undefined;
  return () => {
    answer ??= { value: work() };
    return answer.value;
  };
}
