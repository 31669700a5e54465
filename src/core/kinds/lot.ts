/** What a limit of a kind is asked of: a lot, of which so many pieces or so much exposure are counted. */
export interface KindLot {
  /**
   * Where the share or rate behind some events lies: exact where pieces are independent (Clopper & Pearson 1934;
   * Garwood 1936), else with as many pieces, or as much exposure, as the scatter beyond counting leaves.
   *
   * @param beyond scatter beyond counting of the total
   */
  interval(events: number, of: number, beyond: number, confidence: number): [number, number];
}
