/** Hands a file to the browser's own downloads. */
export function saveAsFile(file: File): void {
  const url = URL.createObjectURL(file);
  const link = document.createElement("a");
  link.href = url;
  link.download = file.name;
  link.click();
  // The download has begun by the time the next task runs.
  window.setTimeout(() => { URL.revokeObjectURL(url); }, 0);
}
