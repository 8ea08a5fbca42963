import { ConversionError, FLOOR_DB, fromMatrices, toAdmittance, toImpedance, type SData } from '../results';
import { encodingProblem } from './text';

/** A Touchstone file that cannot be read or written; the message names the line where there is one. */
export class TouchstoneError extends Error {}

type Format = 'ri' | 'ma' | 'db';
type Parameter = 's' | 'y' | 'z';

export interface TouchstoneFile {
  readonly data: SData;
  readonly version: 1 | 2;
  readonly parameter: Parameter;
}

const FREQUENCY_UNITS: Readonly<Record<string, number>> = { HZ: 1, KHZ: 1e3, MHZ: 1e6, GHZ: 1e9 };
const NUMBER = /^[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?$/;
const MAX_PORTS = 99;
const MAX_LENGTH = 400_000_000;

const fail = (line: number, text: string): never => {
  throw new TouchstoneError(`line ${line}: ${text}`);
};

/** A reference resistance: positive, and neither so large nor so small that squares of it leave the range of numbers. */
const isReference = (text: string): boolean =>
  NUMBER.test(text) && Number(text) >= 1e-60 && Number(text) <= 1e60;

interface Header {
  unit: number;
  parameter: Parameter;
  format: Format;
  resistance: number;
}

function readOptions(text: string, line: number): Header {
  const header: Header = { unit: 1e9, parameter: 's', format: 'ma', resistance: 50 };
  const words = text.slice(1).trim().split(/\s+/).filter(Boolean);
  for (let i = 0; i < words.length; i++) {
    const word = words[i].toUpperCase();
    if (word in FREQUENCY_UNITS) header.unit = FREQUENCY_UNITS[word];
    else if (word === 'S' || word === 'Y' || word === 'Z') header.parameter = word.toLowerCase() as Parameter;
    else if (word === 'G' || word === 'H') fail(line, `${word}-parameters are not read; S, Y and Z are`);
    else if (word === 'RI' || word === 'MA' || word === 'DB') header.format = word.toLowerCase() as Format;
    else if (word === 'R') {
      const value = words[++i] ?? '';
      if (!isReference(value))
        fail(line, `the reference resistance "${value}" is not a positive number that can be computed with`);
      header.resistance = Number(value);
    } else fail(line, `"${words[i]}" is not known in the option line`);
  }
  return header;
}

/** Port count a file's name states (`.s3p`), if it does. */
export function portsOfName(name: string): number | undefined {
  const match = /\.s(\d{1,3})p$/i.exec(name);
  return match ? Number(match[1]) : undefined;
}

/** Port count from the number of values in the file: the one for which the frequencies ascend. */
function guessPorts(values: readonly number[]): number | undefined {
  for (let n = 1; n <= 16; n++) {
    const row = 1 + 2 * n * n;
    if (values.length % row !== 0) continue;
    let ascends = true;
    for (let k = row; k < values.length && ascends; k += row) ascends = values[k] > values[k - row];
    if (ascends) return n;
  }
  return undefined;
}

/**
 * Reads Touchstone 1.0, 1.1 and 2.0: S, Y or Z in RI, MA or DB, wrapped rows, comments, any number of ports, references
 * per port, full and triangular matrices; noise data is skipped. Y and Z become S referred to the file's reference.
 *
 * @param ports the count the file's name states; version 1 does not say it inside
 * @throws TouchstoneError with the line at fault; nothing partial is returned
 */
export function readTouchstone(text: string, ports?: number): TouchstoneFile {
  if (text.length > MAX_LENGTH) throw new TouchstoneError('the file is too large (over 400 MB)');
  const encoding = encodingProblem(text);
  if (encoding !== undefined) throw new TouchstoneError(encoding);
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/);
  let header: Header | undefined;
  let version: 1 | 2 = 1;
  let declaredPorts: number | undefined;
  let declaredPoints: number | undefined;
  let references: number[] | undefined;
  let readingReferences = false;
  let order: '12_21' | '21_12' | undefined;
  let matrix = 'full' as 'full' | 'lower' | 'upper';
  let inData = false;
  let skipping = false;
  let ended = false;
  const values: number[] = [];
  const lineOf: number[] = [];

  for (let i = 0; i < lines.length && !ended; i++) {
    const at = i + 1;
    const comment = lines[i].indexOf('!');
    const content = (comment < 0 ? lines[i] : lines[i].slice(0, comment)).trim();
    if (content === '') continue;
    if (content.startsWith('[')) {
      const close = content.indexOf(']');
      if (close < 0) fail(at, 'a keyword lacks its "]"');
      const keyword = content.slice(1, close).trim().toLowerCase().replace(/\s+/g, ' ');
      const rest = content.slice(close + 1).trim();
      const count = (what: string): number => {
        if (!/^\d{1,7}$/.test(rest) || Number(rest) < 1)
          fail(at, `${what} must be a whole number above zero`);
        return Number(rest);
      };
      readingReferences = false;
      if (skipping && keyword !== 'end information' && keyword !== 'end') continue;
      switch (keyword) {
        case 'version':
          if (!/^2(\.\d+)?$/.test(rest))
            fail(at, `version ${rest || '(none)'} is not read; 1.0, 1.1 and 2.0 are`);
          version = 2;
          break;
        case 'number of ports':
          declaredPorts = count('the number of ports');
          break;
        case 'number of frequencies':
          declaredPoints = count('the number of frequencies');
          break;
        case 'number of noise frequencies':
          break;
        case 'two-port data order':
        case 'two-port order':
          if (rest !== '12_21' && rest !== '21_12')
            fail(at, 'the two-port data order must be 12_21 or 21_12');
          order = rest as '12_21';
          break;
        case 'matrix format': {
          const format = rest.toLowerCase();
          if (format !== 'full' && format !== 'lower' && format !== 'upper')
            fail(at, 'the matrix format must be Full, Lower or Upper');
          matrix = format as 'full';
          break;
        }
        case 'reference':
          references = [];
          readingReferences = true;
          pushReferences(rest, at);
          break;
        case 'mixed-mode order':
          fail(at, 'mixed-mode data is not read');
          break;
        case 'begin information':
          skipping = true;
          break;
        case 'end information':
          skipping = false;
          break;
        case 'network data':
          inData = true;
          break;
        case 'noise data':
          inData = false;
          skipping = true;
          break;
        case 'end':
          ended = true;
          break;
        default:
          fail(at, `the keyword [${keyword}] is not known`);
      }
      continue;
    }
    if (skipping) continue;
    if (content.startsWith('#')) {
      // Only the first option line counts (Touchstone 1.1, section on the option line).
      header ??= readOptions(content, at);
      continue;
    }
    if (readingReferences) {
      pushReferences(content, at);
      continue;
    }
    if (version === 2 && !inData) fail(at, `"${content.slice(0, 40)}" stands before [Network Data]`);
    for (const word of content.split(/[\s,]+/)) {
      if (!NUMBER.test(word)) fail(at, `"${word.slice(0, 40)}" is not a number`);
      const value = Number(word);
      if (!Number.isFinite(value)) fail(at, `"${word.slice(0, 40)}" is too large`);
      values.push(value);
      lineOf.push(at);
    }
  }

  function pushReferences(textOfLine: string, at: number): void {
    for (const word of textOfLine.split(/\s+/).filter(Boolean)) {
      if (!isReference(word))
        fail(at, `the reference "${word}" is not a positive number that can be computed with`);
      references!.push(Number(word));
    }
  }

  const options = header ?? { unit: 1e9, parameter: 's', format: 'ma', resistance: 50 };
  if (values.length === 0) throw new TouchstoneError('there is no network data in the file');
  if (version === 2 && declaredPorts === undefined) throw new TouchstoneError('[Number of Ports] is missing');
  const n = declaredPorts ?? ports ?? guessPorts(values);
  if (n === undefined)
    throw new TouchstoneError('the number of ports cannot be told; name the file .s1p, .s2p …');
  if (n < 1 || n > MAX_PORTS) throw new TouchstoneError(`${n} ports are not read; up to ${MAX_PORTS} are`);
  if (references && references.length !== n)
    throw new TouchstoneError(`[Reference] needs ${n} values, not ${references.length}`);
  const entries = matrix === 'full' ? n * n : (n * (n + 1)) / 2;
  const row = 1 + 2 * entries;

  /** Whether all lines from value `k` on have five values, with frequencies that ascend. */
  const isNoise = (k: number): boolean => {
    if ((values.length - k) % 5 !== 0) return false;
    for (let i = k; i < values.length; i += 5) {
      if (i > k && (lineOf[i] === lineOf[i - 1] || values[i] <= values[i - 5])) return false;
      for (let j = 1; j < 5; j++) if (lineOf[i + j] !== lineOf[i]) return false;
    }
    return true;
  };
  let points = 0;
  let end = values.length;
  for (let k = 0; k < values.length; k += row, points++) {
    if (declaredPoints !== undefined && points === declaredPoints) {
      end = k;
      break;
    }
    if (k > 0 && lineOf[k] === lineOf[k - 1])
      fail(
        lineOf[k],
        `a row has more than the ${row} values of a frequency; each frequency begins a line of its own`,
      );
    if (k > 0 && values[k] <= values[k - row]) {
      // Noise data of a two-port begins at or below the last frequency; each of its lines has five values.
      if (version === 1 && n === 2 && isNoise(k)) {
        end = k;
        break;
      }
      fail(lineOf[k], 'the frequencies do not ascend, or a row has too few or too many values');
    }
    if (values[k] < 0) fail(lineOf[k], 'a frequency is negative');
    if (!(values[k] * options.unit < 1e60)) fail(lineOf[k], 'a frequency is too large to compute with');
    if (k + row > values.length)
      fail(
        lineOf[values.length - 1],
        `the last frequency has ${values.length - k - 1} values instead of ${row - 1}`,
      );
  }
  if (declaredPoints !== undefined && points !== declaredPoints)
    throw new TouchstoneError(`[Number of Frequencies] says ${declaredPoints}, the file has ${points}`);
  if (end !== values.length && version === 2)
    fail(lineOf[end], 'there is more data than [Number of Frequencies] says');

  const freq = new Float64Array(points);
  const re = new Float64Array(points * n * n);
  const im = new Float64Array(points * n * n);
  const swapped = n === 2 && (version === 1 || order === '21_12');
  for (let k = 0; k < points; k++) {
    let from = k * row;
    freq[k] = values[from++] * options.unit;
    const put = (i: number, j: number, a: number, b: number) => {
      const at = (k * n + i) * n + j;
      if (options.format === 'ri') {
        re[at] = a;
        im[at] = b;
        return;
      }
      const size = options.format === 'db' ? Math.pow(10, a / 20) : a;
      re[at] = size * Math.cos((b * Math.PI) / 180);
      im[at] = size * Math.sin((b * Math.PI) / 180);
    };
    for (let i = 0; i < n; i++) {
      const first = matrix === 'upper' ? i : 0;
      const last = matrix === 'lower' ? i : n - 1;
      for (let j = first; j <= last; j++) {
        const a = values[from++];
        const b = values[from++];
        if (swapped) put(j, i, a, b);
        else put(i, j, a, b);
        if (matrix !== 'full' && i !== j) put(j, i, a, b);
      }
    }
  }
  const z0 = Array.from({ length: n }, (_, i) => ({ re: references?.[i] ?? options.resistance, im: 0 }));
  const { parameter } = options;
  let data: SData = { ports: n, freq, re, im, z0 };
  if (parameter !== 's') {
    // Version 1 normalises to R: Z/R and Y R are written.
    const scale = version === 2 ? 1 : parameter === 'z' ? options.resistance : 1 / options.resistance;
    for (let i = 0; i < re.length; i++) {
      re[i] *= scale;
      im[i] *= scale;
    }
    try {
      data = fromMatrices(parameter === 'z' ? 'impedance' : 'admittance', n, freq, re, im, z0);
    } catch (error) {
      if (error instanceof ConversionError) throw new TouchstoneError(error.message);
      throw error;
    }
  }
  if (!data.re.every(Number.isFinite) || !data.im.every(Number.isFinite))
    throw new TouchstoneError('the data holds values that are not finite');
  return { data, version, parameter };
}

export interface WriteOptions {
  readonly version: 1 | 2;
  readonly format?: Format;
  readonly parameter?: Parameter;
  /** Lines put at the head as comments. */
  readonly comments?: readonly string[];
}

/**
 * Writes Touchstone 1.1 or 2.0 in hertz, each number in the digits that read back as the same double.
 * @throws TouchstoneError where the format cannot say it (references that differ in 1.1, complex ones in both)
 * @throws ConversionError where Y or Z do not exist
 */
export function writeTouchstone(data: SData, options: WriteOptions): string {
  const { version, format = 'ri', parameter = 's', comments = [] } = options;
  const { ports: n, freq, z0 } = data;
  if (z0.some((z) => z.im !== 0))
    throw new TouchstoneError('Touchstone knows only real reference impedances');
  if (version === 1 && z0.some((z) => z.re !== z0[0].re))
    throw new TouchstoneError('Touchstone 1.1 knows one reference impedance for all ports, and these differ');
  let { re, im } = data;
  let scale = 1;
  if (parameter !== 's') {
    ({ re, im } = parameter === 'z' ? toImpedance(data) : toAdmittance(data));
    if (version === 1) scale = parameter === 'z' ? 1 / z0[0].re : z0[0].re;
  }
  const pair = (at: number): string => {
    const a = re[at] * scale;
    const b = im[at] * scale;
    if (format === 'ri') return `${a} ${b}`;
    const size = Math.hypot(a, b);
    const angle = (Math.atan2(b, a) * 180) / Math.PI;
    return `${format === 'ma' ? size : size > 0 ? Math.max(FLOOR_DB, 20 * Math.log10(size)) : FLOOR_DB} ${angle}`;
  };
  // The format is plain ASCII; what people name their designs is not.
  const out: string[] = comments.map(
    (c) =>
      `! ${c
        .replace(/[\r\n]+/g, ' ')
        .replace(/[\u2009\u202F\u00A0]/g, ' ')
        .replace(/[\u03A9\u2126]/g, 'ohm')
        .replace(/\u03B5r/g, 'er')
        .replace(/[\u00B5\u03BC]/g, 'u')
        .replace(/\u00B0/g, ' deg')
        .replace(/[\u2212\u2013\u2014]/g, '-')
        .replace(/[\u201C\u201D]/g, '"')
        .replace(/[\u2018\u2019]/g, "'")
        .replace(/[^\x20-\x7e]/g, '?')}`,
  );
  const option = `# Hz ${parameter.toUpperCase()} ${format.toUpperCase()} R ${z0[0].re}`;
  if (version === 2) {
    out.push('[Version] 2.0', option, `[Number of Ports] ${n}`);
    if (n === 2) out.push('[Two-Port Data Order] 12_21');
    out.push(
      `[Number of Frequencies] ${freq.length}`,
      `[Reference] ${z0.map((z) => z.re).join(' ')}`,
      '[Matrix Format] Full',
      '[Network Data]',
    );
  } else out.push(option);
  for (let k = 0; k < freq.length; k++) {
    const at = (i: number, j: number) => pair((k * n + i) * n + j);
    if (n === 1) out.push(`${freq[k]} ${at(0, 0)}`);
    else if (n === 2)
      out.push(
        version === 1
          ? `${freq[k]} ${at(0, 0)} ${at(1, 0)} ${at(0, 1)} ${at(1, 1)}`
          : `${freq[k]} ${at(0, 0)} ${at(0, 1)} ${at(1, 0)} ${at(1, 1)}`,
      );
    else
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j += 4) {
          const pairs = [];
          for (let c = j; c < Math.min(j + 4, n); c++) pairs.push(at(i, c));
          out.push(`${i === 0 && j === 0 ? freq[k] : ' '} ${pairs.join(' ')}`);
        }
  }
  if (version === 2) out.push('[End]');
  return `${out.join('\n')}\n`;
}
