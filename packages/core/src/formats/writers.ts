import type { SData } from '../results';
import { writeParameterCsv } from './csv';
import type { NumberFormat, ResponseFormat } from './response-formats';
import { writeTouchstone } from './touchstone';

/** How parameters are written. */
export interface Wish {
  readonly format?: NumberFormat;
  readonly parameter?: 's' | 'y' | 'z';
  /** Lines put at the head, where the format has room for them. */
  readonly comments?: readonly string[];
}

/** Writes one file format; menus and the command line map over them. */
export interface ResponseWriter {
  /** Of a file with so many ports, without its point. */
  suffix(ports: number): string;
  /** Whether a file of that suffix (in small letters) is one of this format, of whatever number of ports. */
  takes(suffix: string): boolean;
  readonly type: string;
  /** @throws TouchstoneError, ConversionError where the format cannot say it */
  write(data: SData, wish: Wish): string;
}

const NUMBERED = /^s\d+p$/;

export const responseWriters: Readonly<Record<ResponseFormat, ResponseWriter>> = {
  'touchstone-1': {
    suffix: (ports) => `s${ports}p`,
    takes: (suffix) => NUMBERED.test(suffix),
    type: 'text/plain',
    write: (data, wish) => writeTouchstone(data, { version: 1, ...wish }),
  },
  'touchstone-2': {
    suffix: () => 'ts',
    takes: (suffix) => suffix === 'ts',
    type: 'text/plain',
    write: (data, wish) => writeTouchstone(data, { version: 2, ...wish }),
  },
  csv: {
    suffix: () => 'csv',
    takes: (suffix) => suffix === 'csv',
    type: 'text/csv',
    write: (data, { format, parameter }) => writeParameterCsv(data, format, parameter),
  },
};

/** The format asked for, or another that can say what it cannot: Touchstone 1 knows one reference for all ports. */
export const writerFor = (wanted: ResponseFormat, { z0 }: Pick<SData, 'z0'>): ResponseFormat =>
  wanted === 'touchstone-1' && z0.some((z) => z.re !== z0[0].re || z.im !== z0[0].im)
    ? 'touchstone-2'
    : wanted;
