import { circle, type Ring } from '../polygons';
import type { BoardPlan } from './board';
import { LAYERS } from './text';

/** Database unit, m. */
const UNIT = 1e-9;
/** Corners that one element may have. */
const MOST = 8190;
/** How far straight sides are off the rim of a hole, m. */
const CHORD = 1e-6;

/** A record: its type, its kind of data, its bytes. */
function record(type: number, kind: number, data: Uint8Array = new Uint8Array(0)): Uint8Array {
  const out = new Uint8Array(4 + data.length);
  new DataView(out.buffer).setUint16(0, out.length);
  out[2] = type;
  out[3] = kind;
  out.set(data, 4);
  return out;
}

const whole2 = (...values: readonly number[]): Uint8Array => {
  const out = new Uint8Array(2 * values.length);
  values.forEach((v, i) => new DataView(out.buffer).setInt16(2 * i, v));
  return out;
};

/** Eight bytes of excess-64 base-16 floating point. */
function real(value: number): Uint8Array {
  const out = new Uint8Array(8);
  if (value === 0) return out;
  let exponent = 64;
  let fraction = Math.abs(value);
  for (; fraction >= 1; exponent++) fraction /= 16;
  for (; fraction < 1 / 16; exponent--) fraction *= 16;
  out[0] = (value < 0 ? 128 : 0) | exponent;
  for (let i = 1; i < 8; i++) {
    fraction *= 256;
    out[i] = Math.floor(fraction);
    fraction -= out[i];
  }
  return out;
}

const text = (value: string): Uint8Array => {
  const plain = value.normalize('NFKD').replace(/[^\x20-\x7e]/g, '') || 'board';
  const even = plain.length % 2 === 0 ? plain : `${plain}\0`;
  return Uint8Array.from(even, (c) => c.charCodeAt(0));
};

const corners = (ring: Ring): Uint8Array => {
  const out = new Uint8Array(8 * ring.length);
  const view = new DataView(out.buffer);
  ring.forEach(([x, y], i) => {
    view.setInt32(8 * i, Math.round(x / UNIT));
    view.setInt32(8 * i + 4, Math.round(y / UNIT));
  });
  return out;
};

/** A closed polygon on a layer. @throws RangeError of one with more corners than the format takes */
function boundary(layer: number, ring: Ring): Uint8Array[] {
  if (ring.length > MOST)
    throw new RangeError(`a polygon of ${ring.length} corners is more than GDSII takes`);
  return [
    record(0x08, 0),
    record(0x0d, 2, whole2(layer)),
    record(0x0e, 2, whole2(0)),
    record(0x10, 3, corners([...ring, ring[0]])),
    record(0x11, 0),
  ];
}

/** The board as a GDSII stream: closed polygons on layers by number, one structure, 1 nm. */
export function writeGdsii({ name, copper, board, holes, words }: BoardPlan): Uint8Array {
  const dates = whole2(...new Array<number>(12).fill(0));
  const own = name.replace(/[^A-Za-z0-9_$?]/g, '_').slice(0, 32) || 'BOARD';
  const units = new Uint8Array(16);
  units.set(real(1e-3));
  units.set(real(UNIT), 8);
  const records = [
    record(0x00, 2, whole2(600)),
    record(0x01, 2, dates),
    record(0x02, 6, text('DITCH')),
    record(0x03, 5, units),
    record(0x05, 2, dates),
    record(0x06, 6, text(own)),
    ...copper.flatMap((ring) => boundary(LAYERS.COPPER, ring)),
    ...boundary(LAYERS.OUTLINE, board),
    ...holes.flatMap((h) => boundary(LAYERS.DRILL, circle([h.x, h.y], h.diameter / 2, CHORD))),
    ...words.flatMap((w) => [
      record(0x0c, 0),
      record(0x0d, 2, whole2(LAYERS.TEXT)),
      record(0x16, 2, whole2(0)),
      record(0x10, 3, corners([[w.x, w.y]])),
      record(0x19, 6, text(w.text)),
      record(0x11, 0),
    ]),
    record(0x07, 0),
    record(0x04, 0),
  ];
  const out = new Uint8Array(records.reduce((sum, r) => sum + r.length, 0));
  let at = 0;
  for (const r of records) {
    out.set(r, at);
    at += r.length;
  }
  return out;
}
