/** Hands a file to the browser's downloads. */
export function download(name: string, content: string | Blob, type = 'text/plain'): void {
  const url = URL.createObjectURL(typeof content === 'string' ? new Blob([content], { type }) : content);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  document.body.append(link);
  link.click();
  link.remove();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}

/** Asks for a file; resolves with nothing when the choice is dismissed. */
export function chooseFile(accept: string): Promise<File | undefined> {
  return new Promise((resolve) => {
    const input = document.createElement('input');
    input.type = 'file';
    input.accept = accept;
    input.addEventListener('change', () => resolve(input.files?.[0]));
    input.addEventListener('cancel', () => resolve(undefined));
    input.click();
  });
}

/** A file name out of a title. */
export const fileName = (title: string): string =>
  title
    .normalize('NFKD')
    .replace(/[^\w.+-]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase() || 'ditch';
