/** A setting past an end of what its factor can be set to, or of its range where no hard limit is stated. */
export interface PastEnd {
  factor: string;
  value: number;
  unit: string | undefined;
  side: "low" | "high";
  end: number;
  /** Whether the end is a hard limit. */
  hard: boolean;
}

/** What a place breaks of the region, by code. */
export interface PlaceValues {
  "past-end": PastEnd;
  "off-step": { factor: string; value: number; unit: string | undefined; step: number; from: number };
  "breaks-region": { limit: string };
  /** Asked of what is said to have been run. */
  doubtful: PastEnd;
}
