/** Saves text as a file. */
export function saveText(text: string, name: string, type = "text/csv"): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
