/** Has the browser save something under a name. */
export function saveFile(name: string, content: Blob): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name.replace(/[^\w. -]+/g, "-").slice(0, 120);
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
