/** Gives what was made here to the device as a file. */
export function saveFile(name: string, content: Blob) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** What a canvas gives as an address, as a file's content: asking for such an address is not allowed to a page of ours. */
export function contentOf(dataUrl: string): Blob {
  const [head, body] = dataUrl.split(",");
  const bytes = Uint8Array.from(atob(body!), (c) => c.charCodeAt(0));
  return new Blob([bytes], { type: /:(.*?);/.exec(head!)![1]! });
}
