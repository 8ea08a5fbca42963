import { useMemo } from 'react';
import styled from 'styled-components';
import {
  filterShapes,
  leastOrderFor,
  lostFor,
  lowpassElements,
  type Approximation,
  type FilterShapeId,
  type FilterSpecification,
} from '@ditch/core/theory';
import { formatNumber, QuantityError, readQuantity } from '@ditch/core/units';
import { ErrorText, QuantityInput } from '../../controls/QuantityInput';
import { Select } from '../../controls/Select';
import { colour } from '../../theme';

const Box = styled.div`
  display: grid;
  grid-template-columns: 108px minmax(0, 1fr);
  align-items: center;
  gap: 3px 8px;
  font-size: 12px;
  details {
    grid-column: 1 / -1;
  }
  summary {
    cursor: pointer;
    padding: 3px 0;
  }
  summary:focus-visible {
    outline: 2px solid ${colour('water')};
    outline-offset: 2px;
  }
  dl {
    display: grid;
    grid-template-columns: 70px minmax(0, 1fr);
    gap: 2px 8px;
    margin: 2px 0 0;
    font-variant-numeric: tabular-nums;
  }
  dt {
    color: ${colour('quiet')};
  }
  dd {
    margin: 0;
  }
  output {
    font-weight: 600;
  }
`;

const number = (x: number): string => formatNumber(x, 4);

/** Which shape meets a specification with which order, and what it is: poles, zeros, elements, couplings. */
export function Prototype({
  spec,
  shape,
  response,
  quality,
  onQuality,
  onShape,
}: {
  spec: FilterSpecification | undefined;
  shape: FilterShapeId;
  response: { readonly made?: Approximation; readonly problem?: string } | undefined;
  quality: string;
  onQuality: (text: string) => void;
  onShape: (id: string) => void;
}) {
  const orders = useMemo(
    () => new Map(spec && filterShapes.map((s) => [s.id, leastOrderFor(spec, s.id)])),
    [spec],
  );
  const q = useMemo((): { value?: number; error?: string } => {
    try {
      return { value: readQuantity(quality, { kind: 'number', min: 0, exclusive: true }).re };
    } catch (error) {
      if (error instanceof QuantityError) return { error: error.message };
      throw error;
    }
  }, [quality]);
  const made = response?.made;
  const lost = spec && made && q.value !== undefined ? lostFor(spec, made, q.value) : undefined;
  // All poles and no zeros: a ladder of reactances, whose elements are known in closed form for these two.
  const ladder = useMemo(() => {
    if (!made || !spec) return undefined;
    if (shape === 'chebyshev') return lowpassElements({ order: made.order, ripple: spec.passLoss });
    if (shape !== 'butterworth') return undefined;
    // The pass band ends where its loss is allowed, not at half of the power.
    const scale = Math.pow(Math.expm1((spec.passLoss * Math.LN10) / 10), 1 / (2 * made.order));
    const g = lowpassElements({ order: made.order, ripple: 0 });
    return g.map((x, i) => (i < made.order ? x * scale : x));
  }, [made, spec, shape]);
  const share =
    spec && spec.edges.length > 1
      ? (spec.edges[1] - spec.edges[0]) / Math.sqrt(spec.edges[0] * spec.edges[1])
      : undefined;
  const [one] = made?.poles ?? [];
  return (
    <Box>
      <span>Shape</span>
      <Select
        label="Shape"
        value={shape}
        choices={filterShapes.map((s) => {
          const order = orders.get(s.id);
          return { id: s.id, label: s.name, note: order === undefined ? 'out of reach' : `order ${order}` };
        })}
        onChange={onShape}
      />
      <span>Quality</span>
      <QuantityInput
        label="Quality of the resonators"
        help="Unloaded quality of the resonators, for the loss that they add in the middle of the pass band."
        kind="number"
        value={quality}
        error={q.error}
        onChange={onQuality}
      />
      <span>Least order</span>
      {made ? (
        <output aria-label="least order">{made.order}</output>
      ) : (
        <ErrorText>{response?.problem ?? '\u2013'}</ErrorText>
      )}
      <span>Loss by Q</span>
      <output aria-label="loss by the quality">
        {lost === undefined ? '\u2013' : `${formatNumber(lost, 2)}\u2009dB`}
      </output>
      {made && one && (
        <details>
          <summary>Poles, zeros, elements</summary>
          <dl>
            <dt>poles</dt>
            <dd>
              {made.poles
                .filter((p) => p.im >= -1e-12)
                .map((p) =>
                  Math.abs(p.im) < 1e-9 ? number(p.re) : `${number(p.re)} \u00B1 j${number(p.im)}`,
                )
                .join(', ')}
            </dd>
            {made.zeros.length > 0 && (
              <>
                <dt>zeros</dt>
                <dd>
                  {made.zeros
                    .filter((z) => z.im > 0)
                    .map((z) => `\u00B1 j${number(z.im)}`)
                    .join(', ')}
                </dd>
              </>
            )}
            {ladder && (
              <>
                <dt>g</dt>
                <dd>{ladder.map(number).join(', ')}</dd>
              </>
            )}
            {ladder && share !== undefined && spec?.kind === 'bandpass' && (
              <>
                <dt>couplings</dt>
                <dd>
                  {ladder
                    .slice(0, -2)
                    .map((g, i) => number(share / Math.sqrt(g * ladder[i + 1])))
                    .join(', ') || '\u2013'}
                </dd>
                <dt>external Q</dt>
                <dd>{number(ladder[0] / share)}</dd>
              </>
            )}
          </dl>
        </details>
      )}
    </Box>
  );
}
