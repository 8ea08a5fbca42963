import styled from 'styled-components';
import { media, type MediumId, type Substrate } from '@ditch/core/lines';
import type { SheetShapeId } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { useSize } from '../../charts/size';
import { colour } from '../../theme';
import { Field, FieldChoice, useField, type FieldMode } from './Field';

const Box = styled.div`
  position: relative;
  height: 100%;
  svg {
    position: absolute;
    inset: 0;
  }
  text {
    font-size: 11px;
    fill: ${colour('quiet')};
  }
`;

/** A line's cross-section as it is drawn: everything that has a place in it. Lengths in m, y up from the copper's lower face. */
export interface Scenery {
  /** Copper on the interface, from and to. */
  readonly copper: readonly (readonly [number, number])[];
  /** Right edge of what the wave lives on. */
  readonly outer: number;
  /** Half of the width drawn. */
  readonly half: number;
  readonly below: number;
  readonly above: number;
  /** Where a plane closes it: below, and above at its drawn height. */
  readonly ground: boolean;
  readonly lid: number | undefined;
}

/** What there is to draw of a shape in its medium. */
export function sceneryOf(
  shape: SheetShapeId,
  medium: MediumId,
  { height: h, thickness: t, cover }: Substrate,
  dimensions: readonly number[] | undefined,
  /** Heights of air to draw over an open line. */
  air = 0.7,
): Scenery {
  const [w = 2 * h, between = h] = dimensions ?? [];
  const outer = shape === 'strip' ? w / 2 : shape === 'pair' ? between / 2 + w : w / 2 + between;
  const half = outer + Math.max(1.5 * h, 0.35 * outer);
  const copper: [number, number][] =
    shape === 'pair'
      ? [
          [-outer, -between / 2],
          [between / 2, outer],
        ]
      : shape === 'strip'
        ? [[-w / 2, w / 2]]
        : [
            [-half, -outer],
            [-w / 2, w / 2],
            [outer, half],
          ];
  // A second ground stands where a lid would; a lid far away is drawn where it still fits, with a break in the air.
  if (media[medium].grounds === 2)
    return { copper, outer, half, below: (h - t) / 2, above: (h + t) / 2, ground: true, lid: (h + t) / 2 };
  const hasLid = cover !== Infinity;
  const above = hasLid ? Math.min(cover, 3 * h + t) : Math.max(air * h, 3 * t);
  return {
    copper,
    outer,
    half,
    below: h,
    above,
    ground: shape !== 'coplanar',
    lid: hasLid ? above : undefined,
  };
}

const PLANE = 5;
const PAD = { x: 92, y: 32 };

/** The line's cross-section, true to scale: dielectric, metal, ground and lid with their dimensions, and its field where it is asked for. */
export function CrossSection({
  shape,
  medium,
  substrate,
  dimensions,
  mode,
  onMode,
}: {
  shape: SheetShapeId;
  medium: MediumId;
  substrate: Substrate;
  dimensions: readonly number[] | undefined;
  /** Whose field is drawn. */
  mode: FieldMode;
  onMode: (mode: FieldMode) => void;
}) {
  const [box, size] = useSize<HTMLDivElement>();
  const { height: h, thickness: t, cover } = substrate;
  const seesField = mode !== 'none';
  const scenery = sceneryOf(shape, medium, substrate, dimensions, seesField ? 1.8 : undefined);
  const { half, below, above, ground, lid } = scenery;
  const between = media[medium].grounds === 2;
  const scale = Math.min((size.width - 2 * PAD.x) / (2 * half), (size.height - 2 * PAD.y) / (below + above));
  const px = (x: number) => size.width / 2 + x * scale;
  // The whole stands in the middle.
  const zero = size.height / 2 + ((above - below) * scale) / 2;
  const py = (y: number) => zero - y * scale;
  const metal = Math.max(1.5, t * scale);
  const [left, right] = [px(-half), px(half)];
  const field = useField(shape, medium, substrate, dimensions, mode, scenery);
  const [w, apart] = dimensions ?? [];
  const strip = scenery.copper[shape === 'strip' ? 0 : 1];
  const top = py(0) - metal;

  /** A dimension over the copper. */
  const measured = (from: number, to: number, label: string, strong: boolean) => (
    <g key={label}>
      <g stroke={strong ? colour('ink') : colour('quiet')}>
        <line x1={px(from)} x2={px(to)} y1={top - 9} y2={top - 9} />
        <line x1={px(from)} x2={px(from)} y1={top - 13} y2={top - 5} />
        <line x1={px(to)} x2={px(to)} y1={top - 13} y2={top - 5} />
      </g>
      <text
        x={px((from + to) / 2)}
        y={strong ? top - 16 : top - 28}
        textAnchor="middle"
        style={strong ? { fill: colour('ink'), fontWeight: 600 } : undefined}
      >
        {label}
      </text>
    </g>
  );

  return (
    <Box ref={box}>
      {size.width > 0 && size.height > 60 && (
        <>
          <svg
            width={size.width}
            height={size.height}
            role="img"
            aria-label={`cross-section to scale: ${media[medium].name.toLowerCase()}${w === undefined ? '' : `, width ${formatQuantity(w, 'length')}`}${apart === undefined ? '' : `, ${shape === 'pair' ? 'gap' : 'slot'} ${formatQuantity(apart, 'length')}`}, height ${formatQuantity(h, 'length')}`}
          >
            <rect
              x={left}
              y={between ? py(above) : py(0)}
              width={right - left}
              height={(between ? below + above : below) * scale}
              fill={colour('laminate')}
              stroke={colour('rule')}
            />
            {field.data && <Field field={field.data} scenery={scenery} px={px} py={py} />}
            {ground && (
              <rect x={left} y={py(-below)} width={right - left} height={PLANE} fill={colour('copper')} />
            )}
            {lid !== undefined && (
              <rect
                x={left}
                y={py(lid) - PLANE}
                width={right - left}
                height={PLANE}
                fill={between ? colour('copper') : colour('ruleStrong')}
              />
            )}
            {dimensions &&
              scenery.copper.map(([from, to], i) => (
                <rect
                  key={i}
                  x={px(from)}
                  y={top}
                  width={Math.max(1, (to - from) * scale)}
                  height={metal}
                  fill={
                    shape === 'strip' || shape === 'pair' || i === 1 ? colour('copperHand') : colour('copper')
                  }
                />
              ))}
            <g stroke={colour('quiet')}>
              <line x1={left - 12} x2={left - 12} y1={between ? py(above) : py(0)} y2={py(-below)} />
              <line
                x1={left - 16}
                x2={left - 8}
                y1={between ? py(above) : py(0)}
                y2={between ? py(above) : py(0)}
              />
              <line x1={left - 16} x2={left - 8} y1={py(-below)} y2={py(-below)} />
            </g>
            <text
              x={left - 20}
              y={(py(-below) + (between ? py(above) : py(0))) / 2}
              textAnchor="end"
              dy="0.32em"
            >
              {formatQuantity(h, 'length', { digits: 3 })}
            </text>
            <text x={right - 8} y={py(-below) - 8} textAnchor="end">
              εr {Number(substrate.er.toPrecision(4))}
            </text>
            {dimensions && !seesField && (
              <>
                {measured(strip[0], strip[1], formatQuantity(w, 'length'), true)}
                {shape === 'pair' && measured(-apart / 2, apart / 2, formatQuantity(apart, 'length'), false)}
                {(shape === 'coplanar' || shape === 'grounded') &&
                  measured(w / 2, scenery.outer, formatQuantity(apart, 'length'), false)}
                {(shape === 'strip' || shape === 'pair') && (
                  <text x={px(scenery.outer) + 8} y={py(0) - metal / 2} dy="0.32em">
                    {t > 0 ? formatQuantity(t, 'length', { digits: 3 }) : 'vanishing'}
                  </text>
                )}
              </>
            )}
            {lid !== undefined && !between && (
              <text x={right + 8} y={(py(0) + py(lid)) / 2} dy="0.32em">
                {formatQuantity(cover, 'length', { digits: 3 })}
                {cover > lid ? ' (cut)' : ''}
              </text>
            )}
          </svg>
          <FieldChoice shape={shape} mode={mode} onMode={onMode} field={field} />
        </>
      )}
    </Box>
  );
}
