/** A name that every file system takes. */
export const fileStem = (name: string): string => name.replace(/[^\p{L}\p{N} _-]+/gu, "").trim() || "clovik";

/** Hands a file to the browser's downloads. */
export function saveFile(name: string, bytes: BlobPart, type: string): void {
  const url = URL.createObjectURL(new Blob([bytes], { type }));
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  // The download has its own hold on the data by the next task.
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
