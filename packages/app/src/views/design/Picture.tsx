import { memo, useMemo, type ComponentProps } from 'react';
import styled from 'styled-components';
import { layOut, type Layout } from '@ditch/core/artwork';
import type { ResolvedDesign } from '@ditch/core/network';
import { useSize } from '../../charts/size';
import { byItself } from '../../controls/basics';
import { colour } from '../../theme';
import { fitView, pathOf, pointsOf, type View } from './view';

const Place = styled.div`
  position: relative;
  height: 100%;
  min-height: 0;
`;
const Drawn = styled.div`
  ${byItself}
  overflow: hidden;
  svg {
    position: absolute;
    inset: 0;
    display: block;
  }
`;

/** Fills its place with a drawing. */
export const PictureBox = (props: ComponentProps<typeof Drawn>) => (
  <Place>
    <Drawn {...props} />
  </Place>
);

interface OutlineProps {
  readonly box: Layout['box'];
  readonly view: View;
  /** Room around it for the ports, px. */
  readonly margin?: number;
  /** It ends at metal walls. */
  readonly walled?: boolean;
}

/** The laminate under the copper, and the walls that it ends at. */
export function Outline({ box, view, margin = 0, walled }: OutlineProps) {
  const x = view.sx(box.x) - margin;
  const y = view.sy(box.y + box.height) - margin;
  return (
    <rect
      x={x}
      y={y}
      width={box.width * view.scale + 2 * margin}
      height={box.height * view.scale + 2 * margin}
      fill={colour('laminate')}
      {...(walled
        ? { className: 'walls', stroke: colour('ink'), strokeWidth: 2.5 }
        : { stroke: colour('rule') })}
    />
  );
}

/** A design's copper as a small picture without words. */
export function Picture({ resolved }: { resolved: ResolvedDesign }) {
  const layout = useMemo(() => layOut(resolved), [resolved]);
  return <LayoutPicture layout={layout} />;
}

/** The same of copper that is laid out already. */
export const LayoutPicture = memo(function LayoutPicture({ layout }: { layout: Layout }) {
  const [box, size] = useSize<HTMLDivElement>();
  const view = fitView(layout, size, 14);
  return (
    <PictureBox ref={box}>
      {size.width > 0 && (
        <svg width={size.width} height={size.height} role="img" aria-label="copper, to scale">
          <rect width={size.width} height={size.height} fill={colour('laminate')} />
          {view && (
            <path
              d={pathOf(
                view,
                layout.pieces.flatMap((p) => p.copper),
              )}
              fill={colour('copper')}
              stroke={colour('copper')}
              strokeWidth={0.5}
            />
          )}
          {view &&
            layout.pieces.map((placed) => (
              <g key={placed.id}>
                {placed.body.map((polygon, i) => (
                  <polygon
                    key={`b${i}`}
                    points={pointsOf(view, polygon)}
                    fill={colour('raised')}
                    stroke={colour('quiet')}
                  />
                ))}
                {placed.kind === 'port' && (
                  <circle
                    cx={view.sx(placed.pins[0].x)}
                    cy={view.sy(placed.pins[0].y)}
                    r={2.5}
                    fill={colour('raised')}
                    stroke={colour('water')}
                    strokeWidth={1.2}
                  />
                )}
              </g>
            ))}
        </svg>
      )}
    </PictureBox>
  );
});
