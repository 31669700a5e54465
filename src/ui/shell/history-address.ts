/** Where the history of one cell or thing of a study is read. */
export const historyAddress = (study: string, path: readonly string[]): string =>
  `/studies/${study}/history?path=${encodeURIComponent(path.map(encodeURIComponent).join("/"))}`;
