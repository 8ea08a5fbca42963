import { useMemo } from 'react';
import { create } from 'zustand';
import type { Accuracy } from '@ditch/core/planar';
import { resolveDesign, type Design, type Project, type ResolvedDesign } from '@ditch/core/network';
import type { LengthUnit } from '@ditch/core/units';
import type { SmithGridName } from '../charts/SmithGrid';
import { useSession } from '../store/session';

/** The open project. Views are drawn only while there is one. */
export function useProject(): Project {
  return useSession((s) => s.project)!;
}

/** A design worked out; done again only when the design, the stacks or the data change. */
export function useResolved(project: Project, design: Design): ResolvedDesign {
  const { stacks, data } = project;
  // Everything that resolution reads of the project is among the dependencies.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  return useMemo(() => resolveDesign(project, design), [stacks, data, design]);
}

export type Theme = 'system' | 'light' | 'dark';

interface Preferences {
  readonly theme: Theme;
  /** Share of the design view above the waterline. */
  readonly waterline: number;
  /** Width of the ledger, px. */
  readonly ledger: number;
  /** Units of lengths where a project has no wish of its own. */
  readonly lengths: LengthUnit;
  /** What Smith charts are ruled with. */
  readonly grids: readonly SmithGridName[];
  /** How closely copper is solved, and whether that follows by itself where it is quick. */
  readonly accuracy: Accuracy;
  readonly follow: boolean;
}

const KEY = 'ditch:preferences';

function load(): Preferences {
  const initial: Preferences = {
    theme: 'system',
    waterline: 0.4,
    ledger: 340,
    lengths: 'mm',
    grids: ['impedance'],
    accuracy: 'normal',
    follow: false,
  };
  try {
    return { ...initial, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Preferences>) };
  } catch {
    return initial;
  }
}

/** How this browser likes to see Ditch; not part of any project. */
export const usePreferences = create<Preferences>(load);

export function setPreferences(change: Partial<Preferences>): void {
  usePreferences.setState(change);
  try {
    localStorage.setItem(KEY, JSON.stringify(usePreferences.getState()));
  } catch {
    // Without storage the preference lasts for this visit.
  }
}
