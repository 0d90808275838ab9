const READ_BY_MS = 60_000;

/** Hands a file to the browser's own downloads. */
export function saveAsFile(file: File): void {
  const url = URL.createObjectURL(file);
  const link = document.createElement("a");
  link.href = url;
  link.download = file.name;
  link.click();
  // Some browsers read it only after the click, and large files slowly.
  window.setTimeout(() => {
    URL.revokeObjectURL(url);
  }, READ_BY_MS);
}
