import { useEffect, useState } from 'react';
import { alone, type Design, type Project } from '@ditch/core/network';
import type { Examined } from '../bridge/examining';
import { useLatest } from '../bridge/latest';

/**
 * A design worked out, laid out and reviewed by a worker, so that a page of many designs stays free; undefined until then, and what
 * was known of it before while it changes.
 */
export function useExamined(project: Project, design: Design): Examined | undefined {
  const [known, setKnown] = useState<Examined>();
  const look = useLatest('examine', (found) => found && setKnown(found));
  const { stacks, data } = project;
  useEffect(() => {
    look({ project: alone(project, design), design });
    // Everything that a design is worked out from is among the dependencies.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [look, stacks, data, design]);
  return known;
}
