// What there is to choose from, as the server's tables tell it.

import { queryOptions, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import type { Schemas } from "../api/types";
import { queries } from "./queries";

export type Vocabulary = Schemas["Vocabulary"];

const NOTHING_YET: Vocabulary = {
  shapes: [],
  units: [],
  tones: [],
  passes: [],
  buildings: [],
  references: [],
  luts: [],
  cloths: [],
  hangings: [],
  glasses: [],
  plants: [],
  skies: [],
  readings: [],
  numbers: {},
  finish: {},
};

const QUERY = queryOptions({
  queryKey: ["vocabulary"],
  queryFn: () => answer(api.GET("/api/vocabulary")),
  staleTime: Infinity,
});

/** Ask for the tables: what the page shows first needs names from them. */
export const fetchVocabulary = () => queries.prefetchQuery(QUERY);

export function useVocabulary(): Vocabulary {
  return useQuery(QUERY).data ?? NOTHING_YET;
}

/** The tables outside of parts, as far as they are there. */
export const vocabulary = (): Vocabulary => queries.getQueryData(QUERY.queryKey) ?? NOTHING_YET;
