import { signal } from '@preact/signals-core';
import { useMemo, useRef } from 'react';
import styled from 'styled-components';
import { RecipeError, type Recipe, type RecipeContext, type RecipeInputs } from '@ditch/core/recipes';
import { SmithChart } from '../../charts/SmithChart';
import { Quiet } from '../../controls/basics';
import { colour } from '../../theme';

const Box = styled.figure`
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
  margin: 0;
  padding: 6px 10px;
  border-left: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  figcaption {
    font-size: 11px;
    text-align: center;
  }
`;
const Chart = styled.div`
  position: relative;
  min-height: 0;
`;

/** On the Smith chart: the loads that the entries cannot match, and where this load lies. */
export function Forbidden({
  recipe,
  inputs,
  context,
}: {
  recipe: Recipe;
  inputs: RecipeInputs;
  context: RecipeContext;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const disc = useMemo(() => {
    try {
      return recipe.forbidden?.(inputs, context);
    } catch (error) {
      if (error instanceof RecipeError) return undefined;
      throw error;
    }
  }, [recipe, inputs, context]);
  if (!disc) return null;
  const { conductance: g, at, z0 } = disc;
  const d = (at.re + z0) ** 2 + at.im ** 2;
  const point = { re: (at.re * at.re - z0 * z0 + at.im * at.im) / d, im: (2 * z0 * at.im) / d };
  const inside = (at.re / (at.re ** 2 + at.im ** 2)) * z0 > g;
  return (
    <Box aria-label="forbidden region">
      <Chart>
        <SmithChart
          label="forbidden region on the Smith chart"
          svg={svg}
          picture={NOTHING}
          grids={ADMITTANCE}
          // Conductances above g lie inside the circle through -1 with its other end at (1 - g)/(1 + g).
          forbidden={{ re: -g / (1 + g), im: 0, radius: 1 / (1 + g), at: point }}
        />
      </Chart>
      <figcaption>
        <Quiet>
          The dot is what the first stub meets; the shaded disc is out of reach.{' '}
          {inside ? 'It lies inside: change spacing or offset.' : 'It lies outside: two solutions.'}
        </Quiet>
      </figcaption>
    </Box>
  );
}

const NOTHING = signal({ traces: [], markers: [] });
const ADMITTANCE = ['admittance'] as const;
