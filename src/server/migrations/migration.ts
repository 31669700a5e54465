/** A numbered step forward; there is no way back. */
export interface Migration {
  name: string;
  statements: string[];
}
