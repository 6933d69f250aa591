// Requests to the server. A refusal carries words for the artist; they are shown as they are.

import createClient from "openapi-fetch";
import type { paths } from "./schema";

export class Refusal extends Error {}

/** The server, or its database, did not answer: what was asked may be asked again. */
export class Unreachable extends Refusal {}

export const api = createClient<paths>({ baseUrl: "/" });

let page = "";

/** How this page is called at the server, which need not tell it of its own edits. */
export function named(session: string) {
  page = session;
}

api.use({
  onRequest({ request }) {
    request.headers.set("x-page", page);
    return request;
  },
  onError() {
    return new Unreachable("The server does not answer. Try again when it is back.");
  },
  async onResponse({ response }) {
    if (response.ok) return;
    const said: unknown = await response.json().catch(() => null);
    const detail = (said as { detail?: unknown } | null)?.detail;
    const words =
      typeof detail === "string" ? detail : `The server refused this (${response.status}).`;
    // Its database is away for a moment: what was asked may be asked again.
    throw response.status === 503 ? new Unreachable(words) : new Refusal(words);
  },
});

/** What was answered; whatever is no answer has been thrown on the way. */
export async function answer<T>(asked: Promise<{ data?: T }>): Promise<T> {
  return (await asked).data as T;
}

/** A file as the body of a request. */
export function form(file: File) {
  return {
    // The description knows a file only as a string of bytes.
    body: { file: file as unknown as string },
    bodySerializer: () => {
      const packed = new FormData();
      packed.append("file", file);
      return packed;
    },
  };
}
