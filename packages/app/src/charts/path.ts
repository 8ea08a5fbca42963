import type { Domain } from './domain';

/** Pixels of values on an axis. */
export type Pixels = (value: number) => number;

/** An affine scale, linear or in the logarithm; far quicker per sample than a general one. */
export function pixelsOf(log: boolean | undefined, domain: Domain, from: number, to: number): Pixels {
  const t = log ? Math.log : (v: number) => v;
  const [a, b] = [t(domain[0]), t(domain[1])];
  const slope = (to - from) / (b - a);
  const start = from - a * slope;
  return log ? (v) => start + slope * Math.log(v) : (v) => start + slope * v;
}

/** A tenth of a pixel is finer than any screen shows. */
export const tenth = (v: number): number => Math.round(v * 10) / 10;

/** A circle as a part of a path, so that many of them are one drawing; pixels. */
export const circlePath = (x: number, y: number, r: number): string =>
  `M${tenth(x - r)} ${tenth(y)}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;

/** How far from the line that is drawn a sample may lie that is left out, pixels. */
const SLACK = 0.1;

/**
 * Writes a line as an SVG path and leaves out every point that the line without it passes within a tenth of a pixel: of smooth
 * curves most, and what is not written is neither read nor laid out nor painted (the cone of Sklansky & Gonzalez 1980).
 */
class Line {
  // Numbers of their own and no pairs of them: this is called some thousand times at each step of the hand.
  private d = '';
  /** 0: nothing begun, 1: at a point that is drawn, 2: beyond it at one that may be left out. */
  private state: 0 | 1 | 2 = 0;
  private ax = 0;
  private ay = 0;
  private x = 0;
  private y = 0;
  private far = 0;
  /** Directions from the drawn point between which all points since lie within reach; open as long as none says otherwise. */
  private open = true;
  private lx = 0;
  private ly = 0;
  private rx = 0;
  private ry = 0;

  to(x: number, y: number): void {
    if (this.state === 0) return this.draw('M', x, y);
    let dx = x - this.ax;
    let dy = y - this.ay;
    let far = dx * dx + dy * dy;
    if (
      this.state === 2 &&
      (far < this.far || (!this.open && (this.rx * dy - this.ry * dx < 0 || dx * this.ly - dy * this.lx < 0)))
    ) {
      this.draw('L', this.x, this.y);
      dx = x - this.ax;
      dy = y - this.ay;
      far = dx * dx + dy * dy;
    }
    if (far > SLACK * SLACK) {
      const s = SLACK / Math.sqrt(far);
      const lx = dx - dy * s;
      const ly = dy + dx * s;
      if (this.open || lx * this.ly - ly * this.lx > 0) {
        this.lx = lx;
        this.ly = ly;
      }
      const rx = dx + dy * s;
      const ry = dy - dx * s;
      if (this.open || this.rx * ry - this.ry * rx > 0) {
        this.rx = rx;
        this.ry = ry;
      }
      this.open = false;
    }
    this.state = 2;
    this.x = x;
    this.y = y;
    this.far = far;
  }

  /** Ends what is drawn; what comes next stands apart. */
  lift(): void {
    if (this.state === 2) this.draw('L', this.x, this.y);
    this.state = 0;
  }

  private draw(command: 'M' | 'L', x: number, y: number): void {
    this.d += command + tenth(x) + ' ' + tenth(y);
    this.ax = x;
    this.ay = y;
    this.state = 1;
    this.far = 0;
    this.open = true;
  }

  path(): string {
    this.lift();
    return this.d;
  }
}

/** The curve through points of the plane, around a centre and with a scale in pixels; y is up. */
export function planePath(
  re: ArrayLike<number>,
  im: ArrayLike<number>,
  cx: number,
  cy: number,
  scale: number,
): string {
  const line = new Line();
  for (let k = 0; k < re.length; k++) line.to(cx + re[k] * scale, cy - im[k] * scale);
  return line.path();
}

/** Points of the plane for a polyline: those that are drawn, as in a path. */
export function pointsOf(
  points: readonly { readonly re: number; readonly im: number }[],
  cx: number,
  cy: number,
  scale: number,
): string {
  const line = new Line();
  for (const { re, im } of points) line.to(cx + re * scale, cy - im * scale);
  return line.path().slice(1).replaceAll('L', ' ');
}

/** Samples in a column of pixels beyond which only its first, lowest, highest and last are drawn. */
const CROWDED = 4;

/**
 * The curve through samples as an SVG path. Values are clamped to `low`..`high` (pixels), so that a notch of minus
 * infinity stays drawable; where a sample is no number the curve is interrupted.
 */
export function curvePath(
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  toX: Pixels,
  toY: Pixels,
  low: number,
  high: number,
): string {
  const n = x.length;
  if (n === 0) return '';
  const at = (k: number): number => {
    const v = toY(y[k]);
    return v < high ? high : v > low ? low : v;
  };
  const line = new Line();
  const put = (k: number) => {
    const py = at(k);
    if (py !== py) line.lift();
    else line.to(toX(x[k]), py);
  };
  if (n <= CROWDED * Math.abs(toX(x[n - 1]) - toX(x[0]))) {
    for (let k = 0; k < n; k++) put(k);
    return line.path();
  }
  for (let from = 0; from < n;) {
    const column = Math.floor(toX(x[from]));
    let [least, most, to] = [from, from, from];
    let gap = false;
    for (; to < n && Math.floor(toX(x[to])) === column; to++) {
      if (Number.isNaN(y[to])) gap = true;
      if (y[to] < y[least]) least = to;
      if (y[to] > y[most]) most = to;
    }
    if (gap) for (let k = from; k < to; k++) put(k);
    else for (const k of new Set([from, Math.min(least, most), Math.max(least, most), to - 1])) put(k);
    from = to;
  }
  return line.path();
}
