"use client";
import { useCallback, useState } from "react";

/** Collects the sentences of a table's cells; the first is shown under it. */
export function useTroubles(): { first: string | undefined; tell(name: string, sentence: string | undefined): void } {
  const [all, setAll] = useState<Record<string, string>>({});
  const tell = useCallback((name: string, sentence: string | undefined) => {
    setAll((troubles) => {
      if (troubles[name] === sentence) return troubles;
      const { [name]: _gone, ...rest } = troubles;
      return sentence === undefined ? rest : { ...rest, [name]: sentence };
    });
  }, []);
  return { first: Object.values(all)[0], tell };
}
