import { memo } from 'react';
import { useDerived, useLive } from '../../live';
import { colour } from '../../theme';
import { freeMarksOf, freeOf, labelsOf, LINE_HEIGHT } from './labelling';
import type { LayerProps } from './Placed';
import { fine } from './view';

/** What stands beside the copper. @param props.chosen piece whose label is written in full */
export const Labels = memo(function Labels({
  artwork,
  view,
  chosen,
}: LayerProps & { readonly chosen: string | undefined }) {
  const labels = useLive(
    useDerived(() => {
      const { layout, resolved } = artwork.value;
      return view.value ? labelsOf(layout, resolved, view.value, chosen) : [];
    }, [artwork, view, chosen]),
  );
  const held = useDerived(
    () => artwork.value.design,
    [artwork],
    (a, b) => a.pieces === b.pieces && a.strip === b.strip,
  );
  const ids = useDerived(() => freeOf(held.value), [held], Object.is);
  const free = useLive(
    useDerived(
      () => (view.value ? freeMarksOf(artwork.value.layout, ids.value, view.value) : []),
      [artwork, ids, view],
    ),
  );
  return (
    <g pointerEvents="none" fontSize={11}>
      {free.map(({ id, x, y }) => (
        <path
          key={`free ${id}`}
          className="free"
          d={`M${fine(x)},${fine(y - 5)}l5,5l-5,5l-5,-5z`}
          fill={colour('raised')}
          stroke={colour('water')}
          strokeWidth={1.5}
        />
      ))}
      {labels.map(({ id, lines, full, anchor, x, top }) => (
        <text
          key={id}
          textAnchor={anchor}
          fill={colour(full ? 'ink' : 'quiet')}
          stroke={colour('laminate')}
          strokeWidth={3}
          paintOrder="stroke"
          fontWeight={full ? 600 : 400}
        >
          {lines.map((line, i) => (
            <tspan key={i} x={fine(x)} y={fine(top + LINE_HEIGHT * i)}>
              {line}
            </tspan>
          ))}
        </text>
      ))}
    </g>
  );
});
