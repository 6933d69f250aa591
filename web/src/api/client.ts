// Requests to the server. A refusal carries words for the artist; they are shown as they are.

export class Refusal extends Error {}

async function send<T>(method: string, path: string, body?: unknown): Promise<T> {
  const form = body instanceof FormData;
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, {
      method,
      headers: body !== undefined && !form ? { "content-type": "application/json" } : undefined,
      body: form ? body : body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    throw new Refusal("The server does not answer. Your last edit was not saved; try again.");
  }
  if (!answer.ok) {
    const said: unknown = await answer.json().catch(() => null);
    const detail = (said as { detail?: unknown } | null)?.detail;
    throw new Refusal(
      typeof detail === "string" ? detail : `The server refused this (${answer.status}).`,
    );
  }
  return (await answer.json()) as T;
}

export const get = <T>(path: string) => send<T>("GET", path);
export const post = <T>(path: string, body?: unknown) => send<T>("POST", path, body);
export const patch = <T>(path: string, body: unknown) => send<T>("PATCH", path, body);
export const remove = <T>(path: string) => send<T>("DELETE", path);
