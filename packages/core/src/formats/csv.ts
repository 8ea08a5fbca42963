import { degrees, flooredDecibels, toAdmittance, toImpedance, type SData } from '../results';

/** One column of a table: its heading and its numbers. */
export interface Column {
  readonly name: string;
  readonly values: ArrayLike<number | string>;
}

/**
 * A heading as a field. Spreadsheets take what begins with one of these characters for a formula, and headings are made
 * of names that may come from somebody else's file: an apostrophe keeps them words.
 */
const quote = (heading: string): string => {
  const text = /^[=+\-@\t\r]/.test(heading) ? `'${heading}` : heading;
  return /[",\r\n]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text;
};

const cell = (value: number | string | undefined): string =>
  typeof value === 'string' ? quote(value) : Number.isFinite(value) ? String(value) : '';

/** Comma-separated values (RFC 4180 quoting, point as decimal sign); what is not finite stays empty. */
export function writeCsv(columns: readonly Column[]): string {
  const rows = Math.max(0, ...columns.map((c) => c.values.length));
  const out = [columns.map((c) => quote(c.name)).join(',')];
  for (let k = 0; k < rows; k++) out.push(columns.map((c) => cell(c.values[k])).join(','));
  return `${out.join('\r\n')}\r\n`;
}

/** S-, Y- or Z-parameters as a table: frequency in Hz and two columns an entry. Y in siemens, Z in ohm. */
export function writeParameterCsv(
  data: SData,
  format: 'ri' | 'ma' | 'db' = 'ri',
  parameter: 's' | 'y' | 'z' = 's',
): string {
  const { ports: n, freq } = data;
  const { re, im } = parameter === 's' ? data : parameter === 'z' ? toImpedance(data) : toAdmittance(data);
  const columns: Column[] = [{ name: 'frequency_Hz', values: freq }];
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      const name = `${parameter.toUpperCase()}${n > 9 ? `${i + 1}_${j + 1}` : `${i + 1}${j + 1}`}`;
      const a = new Float64Array(freq.length);
      const b = new Float64Array(freq.length);
      for (let k = 0; k < freq.length; k++) {
        const at = (k * n + i) * n + j;
        if (format === 'ri') [a[k], b[k]] = [re[at], im[at]];
        else {
          a[k] = format === 'ma' ? Math.hypot(re[at], im[at]) : flooredDecibels(re[at], im[at]);
          b[k] = degrees(re[at], im[at]);
        }
      }
      const [x, y] = { ri: ['re', 'im'], ma: ['mag', 'deg'], db: ['dB', 'deg'] }[format];
      columns.push({ name: `${name}_${x}`, values: a }, { name: `${name}_${y}`, values: b });
    }
  return writeCsv(columns);
}
