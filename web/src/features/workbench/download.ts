/** Fetch a file as a press on a link to it would. */
export function download(address: string): void {
  const link = document.createElement("a");
  link.href = address;
  link.download = "";
  document.body.append(link);
  link.click();
  link.remove();
}
