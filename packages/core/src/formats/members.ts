import type { SData } from '../results';
import { writeCsv, type Column } from './csv';
import { responseWriters, writerFor, type Wish } from './writers';
import type { ResponseFormat } from './response-formats';

/** The index that stands beside a file of each member. */
export const MEMBER_INDEX = 'index.csv';

/** What a member's file is called, the first being 0, before its suffix. */
export const memberName = (index: number, count: number): string =>
  String(index + 1).padStart(Math.max(3, String(count).length), '0');

/** The index of members as CSV. @param members values of each, an entry a name @param files of each */
export function memberIndex(
  names: readonly string[],
  members: readonly (readonly number[])[],
  files: readonly string[],
): string {
  const columns: Column[] = [
    { name: 'member', values: members.map((_, i) => i + 1) },
    ...names.map((name, a) => ({ name, values: members.map((m) => m[a]) })),
    { name: 'file', values: files },
  ];
  return writeCsv(columns);
}

/**
 * Parameters over some values as a file of each and their index: text by file name.
 * @param wish how numbers stand in them, and the format (Touchstone)
 * @param about what stands in every file before the values
 */
export function memberFiles(
  names: readonly string[],
  members: readonly { readonly values: readonly number[]; readonly data: SData }[],
  { file = 'touchstone-1', ...wish }: Wish & { readonly file?: ResponseFormat },
  about: string,
): Record<string, string> {
  const files: Record<string, string> = {};
  members.forEach(({ values, data }, i) => {
    const writer = responseWriters[writerFor(file, data)];
    const told = values.map((v, a) => `${names[a]}=${v}`).join(', ');
    files[`${memberName(i, members.length)}.${writer.suffix(data.ports)}`] = writer.write(data, {
      ...wish,
      comments: [`${about}${told}`],
    });
  });
  files[MEMBER_INDEX] = memberIndex(
    names,
    members.map((m) => m.values),
    Object.keys(files),
  );
  return files;
}
