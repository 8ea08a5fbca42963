import { zipSync } from 'fflate';

export const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

/** Texts by file name as one zip file. */
export const zipped = (files: Readonly<Record<string, string>>): Uint8Array =>
  zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, bytes(text)])));
