// What is asked of the server: one memory of answers, and one place where it is said what was refused.

import { type MutationKey, MutationCache, QueryClient, useMutation } from "@tanstack/react-query";
import { Refusal } from "../api/client";
import { set } from "./store";

/** Say what went wrong, in the words of the server where it has any. */
export function say(error: unknown) {
  set({ problem: error instanceof Refusal ? error.message : String(error) });
}

interface Quiet extends Record<string, unknown> {
  /** Whether a failure is what was wanted, as after giving up. */
  quiet?: () => boolean;
}

declare module "@tanstack/react-query" {
  interface Register {
    mutationMeta: Quiet;
  }
}

export const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: 1 },
    // The server is this machine, or near it: whether there is an internet says nothing.
    mutations: { networkMode: "always", gcTime: 0 },
  },
  mutationCache: new MutationCache({
    onError: (error, _of, _before, mutation) => {
      const { meta } = mutation.options;
      if (!meta?.quiet?.()) say(error);
    },
  }),
});

interface Way {
  /** Changes of one row go out one after another. */
  row?: string;
  key?: MutationKey;
  quiet?: () => boolean;
}

/** Have the server change something; null where it refused, which has been said then. */
export async function change<T>(
  ask: () => Promise<T>,
  { row, key, quiet }: Way = {},
): Promise<T | null> {
  const mutation = queries.getMutationCache().build<T, Error, undefined, unknown>(queries, {
    mutationFn: ask,
    mutationKey: key,
    scope: row ? { id: row } : undefined,
    meta: { quiet },
  });
  try {
    return await mutation.execute(undefined);
  } catch {
    return null;
  }
}

/** A change that a part of the page makes; what it makes stale is asked for again before `then`. */
export function useChange<Of, T>(
  ask: (of: Of) => Promise<T>,
  { stale, then }: { stale?: string; then?: (made: T, of: Of) => unknown } = {},
) {
  return useMutation({
    mutationFn: ask,
    onSuccess: async (made, of) => {
      if (stale) {
        // A load still on its way knows nothing of the change, and asking again would join it.
        await queries.cancelQueries({ queryKey: [stale] });
        await queries.invalidateQueries({ queryKey: [stale] });
      }
      await then?.(made, of);
    },
  });
}
