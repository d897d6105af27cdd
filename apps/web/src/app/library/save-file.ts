/** Lets the browser save something as a JSON file. */
export const saveFile = (name: string, content: object): void =>
  saveBlob(name, new Blob([`${JSON.stringify(content, null, 2)}\n`], { type: 'application/json' }));

/** Lets the browser save something. */
export function saveBlob(name: string, content: Blob): void {
  const url = URL.createObjectURL(content);
  const link = Object.assign(document.createElement('a'), { href: url, download: name });
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
