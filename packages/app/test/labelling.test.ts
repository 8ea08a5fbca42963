import { describe, expect, it } from 'vitest';
import { layOut } from '@ditch/core/artwork';
import { emptyProject, newId, resolveDesign } from '@ditch/core/network';
import { initialInputs, recipes } from '@ditch/core/recipes';
import { laminates } from '@ditch/core/stack';
import { labelBox, labelsOf } from '../src/views/design/labelling';
import { fitCamera, viewOf } from '../src/views/design/view';

const size = { width: 960, height: 250 };

describe('labels on the copper', () => {
  it.each([...recipes.keys()])('of a %s never lie on one another, and the one asked for is there', (id) => {
    const recipe = recipes.get(id)!;
    const context = { stack: laminates[0], medium: 'microstrip' as const, newId, data: [] };
    const design = recipe.design(initialInputs(recipe), context);
    const resolved = resolveDesign({ ...emptyProject('x', laminates[0]), designs: [design] }, design);
    const layout = layOut(resolved);
    const view = viewOf(fitCamera(layout, size, 26)!, size);
    for (const chosen of [undefined, ...layout.pieces.map((p) => p.id)]) {
      const labels = labelsOf(layout, resolved, view, chosen);
      if (chosen) expect(labels.find((l) => l.id === chosen)?.full).toBe(true);
      const boxes = labels.map(labelBox);
      boxes.forEach((a, i) =>
        boxes.slice(i + 1).forEach((b) => {
          const apart =
            a.x >= b.x + b.width || b.x >= a.x + a.width || a.y >= b.y + b.height || b.y >= a.y + a.height;
          expect(apart).toBe(true);
        }),
      );
    }
  });
});
