/** Offers a text as a file to save. */
export const saveText = (name: string, text: string, type = 'text/csv'): void =>
  saveFile(name, new Blob([text], { type }));

/** Offers a file to save. */
export function saveFile(name: string, content: Blob): void {
  const url = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 1000);
}
