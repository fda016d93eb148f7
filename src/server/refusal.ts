export type RefusalStatus = 400 | 401 | 403 | 404 | 409 | 413 | 416 | 422 | 429 | 503 | 507;

/** A request that cannot be done; `message` is fit to show, `status` is the HTTP status that says so. */
export class Refusal extends Error {
  constructor(
    readonly status: RefusalStatus,
    message: string,
  ) {
    super(message);
  }
}

export const notFound = (what: string): Refusal => new Refusal(404, `${what} is not here any more.`);
