/** A byte order mark: without it a spreadsheet takes UTF-8 for something else. */
const BOM = '\uFEFF';

/** Hands a text to the browser as a file to keep; one of cells so that a spreadsheet reads its letters. */
export const download = (name: string, text: string, type = 'text/plain'): void =>
  downloadBytes(name, type === 'text/csv' ? `${BOM}${text}` : text, type);

/** Hands a file to the browser, byte by byte as it is. */
export function downloadBytes(name: string, content: string | Uint8Array, type: string): void {
  const url = URL.createObjectURL(new Blob([content as BlobPart], { type }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
