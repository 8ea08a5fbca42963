import type { SData } from '../results';
import { writeCsv, type Column } from './csv';
import type { NumberFormat } from './response-formats';
import { responseWriters } from './writers';

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
 * S-parameters over some values as a Touchstone file of each and their index: text by file name. Where the ports' references differ the
 * files are of version 2.
 * @param about what stands in every file before the values
 */
export function memberFiles(
  names: readonly string[],
  members: readonly { readonly values: readonly number[]; readonly data: SData }[],
  format: NumberFormat,
  about: string,
): Record<string, string> {
  const files: Record<string, string> = {};
  members.forEach(({ values, data }, i) => {
    const differ = data.z0.some((z) => z.re !== data.z0[0].re || z.im !== data.z0[0].im);
    const writer = responseWriters[differ ? 'touchstone-2' : 'touchstone-1'];
    const told = values.map((v, a) => `${names[a]}=${v}`).join(', ');
    files[`${memberName(i, members.length)}.${writer.suffix(data.ports)}`] = writer.write(data, {
      format,
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
