/** Hands the user a file. */
export function saveFile(name: string, type: string, content: string | Blob) {
  const blob = content instanceof Blob ? content : new Blob([content], { type });
  const url = URL.createObjectURL(blob);
  const link = document.createElement("a");
  link.href = url;
  link.download = name.replaceAll(/[\\/:*?"<>|]/g, "-");
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
