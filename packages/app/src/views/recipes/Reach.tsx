import { useMemo } from 'react';
import styled from 'styled-components';
import type { MediumId } from '@ditch/core/lines';
import { RecipeError, type Recipe, type RecipeInputs } from '@ditch/core/recipes';
import { resolveStack, type Stack } from '@ditch/core/stack';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { scaleOf } from '../../charts/axis';
import { Quiet, SectionTitle } from '../../controls/basics';
import { useJob } from '../../queries';
import { colour } from '../../theme';

const Figure = styled.figure`
  margin: 0;
  svg {
    display: block;
    width: 100%;
  }
  text {
    font-size: 11px;
    fill: ${colour('quiet')};
    font-variant-numeric: tabular-nums;
  }
  text.name,
  text.asked {
    fill: ${colour('ink')};
  }
  rect.bar {
    fill: ${colour('copper')};
    opacity: 0.45;
  }
  rect.bar.within {
    opacity: 1;
  }
  line.asked {
    stroke: ${colour('ink')};
    stroke-width: 1.5;
  }
  line.rule {
    stroke: ${colour('rule')};
  }
`;

const WIDTH = 344;
const LEFT = 86;
const RIGHT = 12;
const TOP = 18;
const ROW = 24;
const TICKS = [1, 2, 3, 6, 10, 20, 40];
const dB = (x: number): string => `${formatNumber(x, x < 10 ? 2 : 3)}`;

/** Which ways of coupling lines reach what is asked on this board: bars over decibels. */
export function Reach({
  recipe,
  inputs,
  stack,
  medium,
}: {
  recipe: Recipe;
  inputs: RecipeInputs;
  stack: Stack;
  medium: MediumId;
}) {
  const asked = useMemo(() => {
    try {
      return recipe.coupled?.(inputs);
    } catch (error) {
      if (error instanceof RecipeError) return undefined;
      throw error;
    }
  }, [recipe, inputs]);
  const board = useMemo(() => resolveStack(stack, medium).value, [stack, medium]);
  const request = useMemo(
    () =>
      asked && board
        ? {
            medium,
            substrate: board.substrate,
            z0: asked.z0,
            leastGap: board.minGap,
            freq: asked.freq,
          }
        : undefined,
    // The coupling that is asked moves the mark, not the bars.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [asked?.z0, asked?.freq, board, medium],
  );
  const { data: bars } = useJob('reach', request);
  if (!asked) return null;
  const x = scaleOf(true, [1, 60], LEFT, WIDTH - RIGHT);
  const clamp = (value: number) => x(Math.min(60, Math.max(1, value)));
  const height = TOP + ROW * 3 + 18;
  const within = bars?.filter((b) => asked.coupling >= b.tightest && asked.coupling <= b.loosest) ?? [];
  const said = !bars
    ? 'Solving the closest and the loosest pairs \u2026'
    : within.length > 0
      ? `${formatQuantity(asked.coupling, 'level', { digits: 3 })} can be had by ${within.map((b) => `strips ${b.label}`.replace('strips two', 'two').replace('strips four', 'four')).join(' or ')}.`
      : `No way reaches ${formatQuantity(asked.coupling, 'level', { digits: 3 })} on this board.`;
  return (
    <>
      <SectionTitle>Reach on this board</SectionTitle>
      <Figure>
        <svg
          viewBox={`0 0 ${WIDTH} ${height}`}
          role="img"
          aria-label={`reach of coupling by technology. ${said}${bars?.map((b) => ` ${b.label}: ${dB(b.tightest)} to ${dB(b.loosest)} dB.`).join('') ?? ''}`}
        >
          {TICKS.map((t) => (
            <g key={t}>
              <line className="rule" x1={x(t)} x2={x(t)} y1={TOP} y2={TOP + ROW * 3} />
              <text x={x(t)} y={height - 4} textAnchor="middle">
                {t}
                {t === 40 ? ' dB' : ''}
              </text>
            </g>
          ))}
          {bars?.map((b, i) => (
            <g key={b.id}>
              <title>{`${b.about}: ${dB(b.tightest)} to ${dB(b.loosest)} dB`}</title>
              <text className="name" x={0} y={TOP + ROW * i + 16}>
                {b.label}
              </text>
              <rect
                className={within.includes(b) ? 'bar within' : 'bar'}
                x={clamp(b.tightest)}
                width={Math.max(1, clamp(b.loosest) - clamp(b.tightest))}
                y={TOP + ROW * i + 6}
                height={12}
              />
            </g>
          ))}
          <line
            className="asked"
            x1={clamp(asked.coupling)}
            x2={clamp(asked.coupling)}
            y1={TOP - 2}
            y2={TOP + ROW * 3}
          />
          <text
            className="asked"
            x={Math.min(WIDTH - RIGHT - 20, Math.max(LEFT + 20, clamp(asked.coupling)))}
            y={11}
            textAnchor="middle"
          >
            {formatQuantity(asked.coupling, 'level', { digits: 3 })}
          </text>
        </svg>
        <figcaption>
          <Quiet>
            {said} From gaps of {formatQuantity(board?.minGap ?? 0, 'length', { digits: 3 })}, the least this
            board’s shop etches, to where the strips hardly know of one another.
          </Quiet>
        </figcaption>
      </Figure>
    </>
  );
}
