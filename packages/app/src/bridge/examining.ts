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

/** What the review says of a design; what a remedy does is known where it is applied, by the remark and its label. */
export interface Asked extends Omit<Remark, 'remedies'> {
  readonly remedies?: readonly string[];
}

export function reviewed({ project, design }: { project: Project; design: Design }): Promise<Asked[]> {
  return Promise.resolve(
    review(project, design, resolveDesign(project, design)).map(({ remedies, ...remark }) => ({
      ...remark,
      ...(remedies && { remedies: remedies.map((r) => r.label) }),
    })),
  );
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
