import { nice, ticks } from 'd3-array';
import styled from 'styled-components';
import { formatNumber } from '@ditch/core/units';
import { colour } from '../../theme';

const WIDTH = 268;
const HEIGHT = 96;
const MARGIN = { left: 30, right: 6, top: 8, bottom: 16 };

const Picture = styled.svg`
  display: block;
  width: 100%;
  font-size: 10px;
  fill: ${colour('quiet')};
`;

interface TrailProps {
  readonly trail: readonly (readonly [number, number])[];
  /** States tried so far: where the line ends. */
  readonly evaluations: number;
}

/** The worst miss of the best state over the states that were tried; at nothing every limit is kept. */
export function SearchTrail({ trail, evaluations }: TrailProps) {
  const points = trail.map(([n, miss]) => [n, Math.max(0, miss)] as const);
  const [right, bottom] = [WIDTH - MARGIN.right, HEIGHT - MARGIN.bottom];
  const most = Math.max(10, evaluations);
  const [, high] = nice(0, Math.max(0.1, points[0]?.[1] ?? 1), 3);
  const x = (n: number) => MARGIN.left + (n / most) * (right - MARGIN.left);
  const y = (miss: number) => bottom - (miss / high) * (bottom - MARGIN.top);
  // What was found stays until something better is.
  const steps = points.map(
    ([n, miss], i) => `${i === 0 ? 'M' : 'H'}${x(n)}${i === 0 ? `,${y(miss)}` : `V${y(miss)}`}`,
  );
  return (
    <Picture
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label="worst miss over the states that were tried"
    >
      {ticks(0, high, 3).map((t) => (
        <g key={t}>
          <line x1={MARGIN.left} x2={right} y1={y(t)} y2={y(t)} stroke={colour('rule')} />
          <text x={MARGIN.left - 4} y={y(t) + 3} textAnchor="end">
            {formatNumber(t, 3)}
          </text>
        </g>
      ))}
      {ticks(0, most, 4).map((t) => (
        <text key={t} x={x(t)} y={HEIGHT - 4} textAnchor="middle">
          {t}
        </text>
      ))}
      <line x1={MARGIN.left} x2={right} y1={bottom} y2={bottom} stroke={colour('ruleStrong')} />
      {steps.length > 0 && (
        <path
          className="trail"
          d={`${steps.join('')}H${right}`}
          fill="none"
          stroke={colour('water')}
          strokeWidth={2}
        />
      )}
    </Picture>
  );
}
