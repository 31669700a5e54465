"use client";
import { useCallback, useState } from "react";

/** Collects the sentences of a table's cells; the first is shown under it. */
export function useTroubles(): { first: string | undefined; tell(name: string, sentence: string | undefined): void } {
  const [all, setAll] = useState<Record<string, string>>({});
  const tell = useCallback((name: string, sentence: string | undefined) => {
    setAll((had) => {
      if (had[name] === sentence) return had;
      const { [name]: _gone, ...rest } = had;
      return sentence === undefined ? rest : { ...rest, [name]: sentence };
    });
  }, []);
  return { first: Object.values(all)[0], tell };
}
