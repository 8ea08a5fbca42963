import { layOut, type Layout } from '@ditch/core/artwork';
import { resolveDesign, type Design, type Project, type ResolvedDesign } from '@ditch/core/network';
import { review, type Remark } from '@ditch/core/review';

/** A design as a whole: worked out, laid out, looked at. */
export interface Examined {
  readonly resolved: ResolvedDesign;
  readonly layout: Layout;
  /** What is questionable, without what can be done about it. */
  readonly remarks: readonly Pick<Remark, 'id' | 'severity' | 'message'>[];
}

export function examine({ project, design }: { project: Project; design: Design }): Promise<Examined> {
  const resolved = resolveDesign(project, design);
  const layout = layOut(resolved);
  const remarks = review(project, design, resolved, layout);
  return Promise.resolve({
    resolved,
    layout,
    remarks: remarks.map(({ id, severity, message }) => ({ id, severity, message })),
  });
}
