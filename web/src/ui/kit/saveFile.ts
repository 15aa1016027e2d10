/** Offers bytes or text as a download. */
export function saveFile(data: BlobPart, fileName: string, type: string): void {
  const url = URL.createObjectURL(new Blob([data], { type }));
  const a = document.createElement('a');
  a.href = url;
  a.download = fileName;
  a.click();
  // The browser has taken the address by then.
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
