/** Fetch a file as a press on a link to it would; under `name` where the server says none. */
export function download(address: string, name = ""): void {
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  document.body.append(link);
  link.click();
  link.remove();
}
