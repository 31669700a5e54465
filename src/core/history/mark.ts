/** A moment of a study that a person named. */
export interface Mark {
  id: string;
  /** The state it names. */
  revision: number;
  /** Where on the trail it stands. */
  station: string;
  name: string;
  at: string;
  /** As events say it. */
  who: string;
}
