// What there is to choose from, as the server's tables tell it.

import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import type { Schemas } from "../api/types";

export type Vocabulary = Schemas["Vocabulary"];

const NOTHING_YET: Vocabulary = {
  shapes: [],
  tones: [],
  passes: [],
  buildings: [],
  luts: [],
  cloths: [],
};

export function useVocabulary(): Vocabulary {
  const told = useQuery({
    queryKey: ["vocabulary"],
    queryFn: () => answer(api.GET("/api/vocabulary")),
    staleTime: Infinity,
  });
  return told.data ?? NOTHING_YET;
}
