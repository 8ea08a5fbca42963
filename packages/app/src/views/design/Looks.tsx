import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import type { Complex } from '@ditch/core/numeric';
import type { Flow } from '@ditch/core/planar';
import {
  checkQuantity,
  formatNumber,
  formatQuantity,
  parseExpression,
  QuantityError,
} from '@ditch/core/units';
import { run, runApart } from '../../bridge/bridge';
import { Quiet, QuietButton } from '../../controls/basics';
import { download, fileName } from '../../controls/files';
import { Menu } from '../../controls/Menu';
import { QuantityInput } from '../../controls/QuantityInput';
import { useDerived, useDrawn, useLive, type Live } from '../../live';
import { colour } from '../../theme';
import { usePreferences } from '../hooks';
import { mostOf, RANGE, shadeOf, SHADES, sizes, useWorked } from './flowing';
import type { Artwork } from './pictures';
import type { Solved } from './solving';
import { fine, type View } from './view';

const Canvas = styled.canvas`
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
`;
const Controls = styled.div`
  position: absolute;
  z-index: 2;
  right: 190px;
  bottom: 6px;
  display: flex;
  align-items: center;
  gap: 8px;
  max-width: calc(100% - 200px);
  overflow: hidden;
  padding: 1px 8px;
  border-radius: 5px;
  background: ${colour('raised')};
  font-size: 12px;
  white-space: nowrap;
  label {
    display: inline-flex;
    align-items: center;
    gap: 4px;
  }
  .f {
    width: 84px;
  }
  .turn {
    width: 56px;
  }
  input[type='checkbox'] {
    margin: 0;
    accent-color: ${colour('water')};
  }
  button {
    height: 24px;
    padding: 0 6px;
    font-size: 12px;
  }
`;
const Scale = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 6px;
  font-size: 11px;
  color: ${colour('quiet')};
  i {
    width: 64px;
    height: 8px;
    border-radius: 2px;
  }
`;

type Cells = Pick<Flow, 'corners' | 'first'>;

/** Goes round each cell in places of the picture. */
function eachCell(
  { corners, first }: Cells,
  view: View,
  draw: (cell: number, points: number[]) => void,
): void {
  for (let c = 0; c + 1 < first.length; c++) {
    const points: number[] = [];
    for (let k = first[c]; k < first[c + 1]; k++)
      points.push(view.sx(corners[2 * k]), view.sy(corners[2 * k + 1]));
    draw(c, points);
  }
}

function paint(
  canvas: HTMLCanvasElement,
  size: { readonly width: number; readonly height: number },
  view: View | undefined,
  cells: Cells | undefined,
  style: (cell: number) => { readonly fill?: string; readonly line?: string },
): void {
  const ratio = globalThis.devicePixelRatio || 1;
  canvas.width = Math.round(size.width * ratio);
  canvas.height = Math.round(size.height * ratio);
  const pen = canvas.getContext('2d');
  if (!pen || !view || !cells) return;
  pen.scale(ratio, ratio);
  pen.lineWidth = 0.6;
  eachCell(cells, view, (cell, points) => {
    const { fill, line } = style(cell);
    pen.beginPath();
    for (let i = 0; i < points.length; i += 2) pen.lineTo(points[i], points[i + 1]);
    pen.closePath();
    if (fill) {
      pen.fillStyle = fill;
      pen.fill();
      // Cells leave no seam between them.
      pen.strokeStyle = fill;
      pen.stroke();
    }
    if (line) {
      pen.strokeStyle = line;
      pen.stroke();
    }
  });
}

/** The same picture as a file of its own. */
function svgOf(
  size: { readonly width: number; readonly height: number },
  view: View,
  cells: Cells,
  fill: (cell: number) => string,
): string {
  const out: string[] = [];
  eachCell(cells, view, (cell, points) => {
    const path = Array.from(
      { length: points.length / 2 },
      (_, i) => `${fine(points[2 * i])},${fine(points[2 * i + 1])}`,
    );
    out.push(
      `<polygon points="${path.join(' ')}" fill="${fill(cell)}" stroke="${fill(cell)}" stroke-width="0.4"/>`,
    );
  });
  const { width, height } = size;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">${out.join('')}</svg>`;
}

interface LookProps {
  readonly artwork: Live<Artwork>;
  readonly solved: Live<Solved>;
  readonly view: Live<View | undefined>;
  readonly size: { readonly width: number; readonly height: number };
}

/** Why there is nothing to be looked at. */
function Missing({ solved }: { solved: Solved }) {
  return (
    <Controls role="status">
      {solved.refusal
        ? `This copper cannot be solved: ${solved.refusal}.`
        : 'The copper is being looked at\u2026'}
    </Controls>
  );
}

/** The mesh that the copper is solved on. */
export function MeshLook({ solved: live, view, size, artwork }: LookProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const solved = useLive(live);
  const accuracy = usePreferences((p) => p.accuracy);
  const { subject } = solved;
  const sweep = useLive(useDerived(() => artwork.value.resolved.sweep, [artwork]));
  const { value, problem, busy } = useWorked(
    subject && sweep && JSON.stringify([subject.copper, sweep.stop, accuracy]),
    (signal) =>
      run(
        'mesh',
        { copper: subject!.copper, band: { start: sweep!.start, stop: sweep!.stop }, accuracy },
        { signal },
      ),
  );
  const drawn = subject ? value : undefined;
  useDrawn(() => {
    if (canvas.current)
      paint(canvas.current, size, view.value, drawn, () => ({ line: 'rgb(43 53 60 / 70%)' }));
  });
  return (
    <>
      <Canvas
        ref={canvas}
        role="img"
        aria-label="mesh on the copper"
        data-cells={drawn ? drawn.first.length - 1 : 0}
      />
      {!subject ? (
        <Missing solved={solved} />
      ) : (
        <Controls>
          <Quiet>
            {problem ??
              (busy || !drawn
                ? 'meshing\u2026'
                : `${drawn.first.length - 1} cells at ${accuracy} accuracy, ${drawn.unknowns} unknowns`)}
          </Quiet>
        </Controls>
      )}
    </>
  );
}

/** Seconds in which the current goes through one period when it moves. */
const PERIOD = 2.4;

/** The current on the copper at one frequency. */
export function CurrentLook({ solved: live, view, size, artwork }: LookProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const solved = useLive(live);
  const accuracy = usePreferences((p) => p.accuracy);
  const [entry, setEntry] = useState('f0');
  const [driven, setDriven] = useState<ReadonlyMap<number, string>>(() => new Map([[1, '0 deg']]));
  const [moving, setMoving] = useState(false);
  const { name, values, ports, data } = useLive(
    useDerived(() => {
      const { design, resolved, project } = artwork.value;
      return {
        name: design.name,
        values: resolved.values,
        data: project.data,
        ports: resolved.pieces
          .flatMap((p) => (p.kind === 'port' ? [Number(p.settings.number)] : []))
          .sort((a, b) => a - b),
      };
    }, [artwork]),
  );
  const read = (text: string, kind: 'frequency' | 'angle') => {
    try {
      const scope = { value: (n: string) => values.get(n), names: () => values.keys() };
      const value = checkQuantity(parseExpression(text).evaluate(scope), { kind }).re;
      if (kind === 'frequency' && !(value > 0)) return { problem: 'must be above zero' };
      return { value };
    } catch (error) {
      if (error instanceof QuantityError) return { problem: error.message };
      throw error;
    }
  };
  const f = read(entry, 'frequency');
  const turns = ports.map((p) => (driven.has(p) ? read(driven.get(p)!, 'angle') : undefined));
  const wrong = turns.find((t) => t && 'problem' in t);
  const drive = turns.map((t): Complex => {
    const angle = t && 'value' in t ? t.value! : undefined;
    return angle === undefined ? { re: 0, im: 0 } : { re: Math.cos(angle), im: Math.sin(angle) };
  });
  const { subject } = solved;
  const ready = subject && 'value' in f && !wrong && driven.size > 0;
  const { value, problem, busy } = useWorked(
    ready ? JSON.stringify([subject.copper, subject.rest, f.value, drive, accuracy]) : undefined,
    (signal) => runApart('flow', { subject: subject!, data, f: f.value!, accuracy, drive }, { signal }),
  );
  const flow = subject ? value : undefined;
  const most = flow ? mostOf(flow) : 1;
  const sizeNow = useRef<Float64Array>(undefined);
  const draw = (at: number | undefined) => {
    if (!canvas.current) return;
    const all = flow && sizes(flow, at);
    sizeNow.current = all;
    paint(canvas.current, size, view.value, flow, (cell) => ({ fill: shadeOf(all![cell], most) }));
  };
  useDrawn(() => {
    void view.value;
    if (!moving) draw(undefined);
  });
  useEffect(() => {
    if (!moving || !flow) return;
    let frame = requestAnimationFrame(function step(time) {
      draw(((time / 1000 / PERIOD) % 1) * 2 * Math.PI);
      frame = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(frame);
  });
  const file = fileName(`${name} current`);
  return (
    <>
      <Canvas
        ref={canvas}
        role="img"
        aria-label="current on the copper"
        data-most={flow && !busy ? most : undefined}
      />
      {!subject ? (
        <Missing solved={solved} />
      ) : (
        <Controls role="group" aria-label="current: frequency and drive">
          <span className="f">
            <QuantityInput
              label="frequency of the current"
              value={entry}
              kind="frequency"
              onChange={setEntry}
              error={'problem' in f ? f.problem : undefined}
              known={() => [...values.keys()]}
            />
          </span>
          {ports.map((p) => {
            const turn = driven.get(p);
            const set = (text: string | undefined) =>
              setDriven((before) => {
                const next = new Map(before);
                if (text === undefined) next.delete(p);
                else next.set(p, text);
                return next;
              });
            return (
              <label key={p}>
                <input
                  type="checkbox"
                  aria-label={`drive port ${p}`}
                  checked={turn !== undefined}
                  onChange={(event) => set(event.target.checked ? '0 deg' : undefined)}
                />
                {p}
                {turn !== undefined && driven.size > 1 && (
                  <span className="turn">
                    <QuantityInput label={`phase of port ${p}`} value={turn} kind="angle" onChange={set} />
                  </span>
                )}
              </label>
            );
          })}
          <QuietButton onPress={() => setMoving(!moving)} isDisabled={!flow}>
            {moving ? 'hold' : 'move'}
          </QuietButton>
          <Menu
            label="Picture ▾"
            ariaLabel="picture of the current"
            commands={() => [
              {
                id: 'png',
                label: 'PNG',
                disabled: !flow,
                run: () =>
                  canvas.current?.toBlob((blob) => blob && download(`${file}.png`, blob), 'image/png'),
              },
              {
                id: 'svg',
                label: 'SVG',
                disabled: !flow,
                run: () => {
                  const now = view.peek();
                  const all = sizeNow.current;
                  if (now && flow && all)
                    download(
                      `${file}.svg`,
                      svgOf(size, now, flow, (c) => shadeOf(all[c], most)),
                      'image/svg+xml',
                    );
                },
              },
            ]}
          />
          {problem || wrong || driven.size === 0 ? (
            <span role="status">{problem ?? (wrong ? 'a phase is no angle' : 'drive a port')}</span>
          ) : busy ? (
            <span role="status">solving…</span>
          ) : (
            <Scale
              title={`at ${formatQuantity(f.value ?? 0, 'frequency', { digits: 4 })}, of a wave of 1 W into each; ${RANGE} dB from light to dark`}
            >
              {formatNumber(most * 10 ** (-RANGE / 20), 2)}
              <i style={{ background: `linear-gradient(to right, ${SHADES.join(', ')})` }} />
              {formatNumber(most, 2)} A/m
            </Scale>
          )}
        </Controls>
      )}
    </>
  );
}
