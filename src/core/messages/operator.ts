export interface Typed {
  value: number;
  unit: string;
  /** What may be meant; none where nothing likely is near. */
  meant: number | null;
}

/** Why a result is doubted as it is typed, by code. */
export interface DoubtValues {
  far: Typed & { low: number; high: number };
  unexpected: Typed & { low: number; high: number };
  "unlike-first": Typed & { others: readonly number[] };
  "cannot-be": Typed & { min: number | null; max: number | null };
}
