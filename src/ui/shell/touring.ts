/** Where the tour of a study is kept in this browser: the number of its stop. */
const keyOf = (id: string): string => `trialmoor:tour:${id}`;

/** Starts the tour for a study. */
export const startTour = (id: string): void => stopAt(id, 0);

/** The stop that the tour of a study is at; undefined where there is none. */
export function tourOf(id: string): number | undefined {
  const kept = localStorage.getItem(keyOf(id));
  return kept === null ? undefined : Number(kept) || 0;
}

export const stopAt = (id: string, stop: number): void => localStorage.setItem(keyOf(id), String(stop));

export const endTour = (id: string): void => localStorage.removeItem(keyOf(id));
