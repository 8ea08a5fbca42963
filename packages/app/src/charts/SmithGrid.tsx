import { memo } from 'react';
import { formatNumber } from '@ditch/core/units';
import { colour } from '../theme';
import type { PlacedText } from './labels';

const RESISTANCES = [0.2, 0.5, 1, 2, 5];
const REACTANCES = [0.2, 0.5, 1, 2, 5];
const QUALITIES = [0.5, 1, 2, 5];
const RATIOS = [1.22, 1.5, 2, 3];

/** What the chart is ruled with. */
export type SmithGridName = 'impedance' | 'admittance' | 'quality' | 'vswr';
export const smithGrids: readonly { readonly id: SmithGridName; readonly label: string }[] = [
  { id: 'impedance', label: 'impedance' },
  { id: 'admittance', label: 'admittance' },
  { id: 'quality', label: 'constant Q' },
  { id: 'vswr', label: 'constant VSWR' },
];

interface GridProps {
  readonly clip: string;
  readonly cx: number;
  readonly cy: number;
  readonly radius: number;
  readonly grids: readonly SmithGridName[];
}

/** The numbers of the ruling where they stand, for those who write beside them. */
export function smithNumbers(
  cx: number,
  cy: number,
  radius: number,
  grids: readonly SmithGridName[],
): PlacedText[] {
  const has = (name: SmithGridName) => grids.includes(name);
  const out: PlacedText[] = [];
  if (has('impedance'))
    for (const r of RESISTANCES)
      out.push({ text: String(r), x: cx + radius * ((r - 1) / (r + 1)) + 2, y: cy - 3, anchor: 'start' });
  if (has('impedance') || has('admittance'))
    for (const x of REACTANCES.flatMap((v) => [v, -v])) {
      // Where the arc meets the rim: reflection of a pure reactance, or of a pure susceptance.
      const d = 1 + x * x;
      const sign = has('impedance') ? 1 : -1;
      const [u, v] = [(sign * (x * x - 1)) / d, (sign * 2 * x) / d];
      out.push({
        text: formatNumber(x),
        x: cx + u * (radius + 9),
        y: cy - v * (radius + 9) + 3.5,
        anchor: 'middle',
      });
    }
  if (has('vswr'))
    for (const s of RATIOS)
      out.push({ text: String(s), x: cx, y: cy - (radius * (s - 1)) / (s + 1) - 2, anchor: 'middle' });
  if (has('quality'))
    for (const q of QUALITIES)
      out.push({
        text: `Q ${q}`,
        x: cx,
        y: cy - radius * (Math.sqrt(1 + 1 / (q * q)) - 1 / q) + 9,
        anchor: 'middle',
      });
  return out;
}

/** Circles of constant resistance and reactance, of constant conductance and susceptance, of constant Q and VSWR. */
export const SmithGrid = memo(function SmithGrid({ clip, cx, cy, radius, grids }: GridProps) {
  const has = (name: SmithGridName) => grids.includes(name);
  // The admittance grid is the impedance grid turned by half a turn.
  const circles = (sign: 1 | -1, unit: string) => (
    <>
      {RESISTANCES.map((r) => (
        <circle
          key={`r${r}`}
          cx={cx + (sign * radius * r) / (1 + r)}
          cy={cy}
          r={radius / (1 + r)}
          stroke={r === 1 ? unit : undefined}
          strokeOpacity={r === 1 ? 0.6 : 1}
        />
      ))}
      {REACTANCES.flatMap((x) => [x, -x]).map((x) => (
        <circle key={`x${x}`} cx={cx + sign * radius} cy={cy - radius / x} r={radius / Math.abs(x)} />
      ))}
    </>
  );
  return (
    <>
      <g clipPath={`url(#${clip})`} fill="none" stroke={colour('rule')}>
        <line x1={cx - radius} x2={cx + radius} y1={cy} y2={cy} />
        {has('impedance') && circles(1, colour('water'))}
        {has('admittance') && (
          <g strokeDasharray={has('impedance') ? '3 3' : undefined}>{circles(-1, colour('trace2'))}</g>
        )}
        {has('quality') &&
          // |x| = Q r are circles through the ends of the axis, 1/Q above and below the middle.
          QUALITIES.flatMap((q) => [q, -q]).map((q) => (
            <circle
              key={`q${q}`}
              cx={cx}
              cy={cy + radius / q}
              r={radius * Math.sqrt(1 + 1 / (q * q))}
              stroke={colour('trace4')}
              strokeOpacity={0.55}
              strokeDasharray="1 3"
            />
          ))}
        {has('vswr') &&
          RATIOS.map((s) => (
            <circle
              key={`s${s}`}
              cx={cx}
              cy={cy}
              r={(radius * (s - 1)) / (s + 1)}
              stroke={colour('trace5')}
              strokeOpacity={0.6}
              strokeDasharray="5 3"
            />
          ))}
      </g>
      <g fontSize={10} fill={colour('quiet')} pointerEvents="none">
        {smithNumbers(cx, cy, radius, grids).map((n, i) => (
          <text key={i} x={n.x} y={n.y} textAnchor={n.anchor}>
            {n.text}
          </text>
        ))}
      </g>
    </>
  );
});
