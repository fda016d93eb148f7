/**
 * JSON that somebody brought, with or without a byte-order mark.
 * @param refusal the error to throw where it is none, from the reason why
 */
export function parseJson(text: string, refusal: (why: string) => Error): unknown {
  try {
    return JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    throw refusal((error as Error).message);
  }
}
