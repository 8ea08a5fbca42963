import { create } from 'zustand';

/** Where copper is solved, as this browser has it; not part of any project. */
interface Where {
  readonly where: 'here' | 'farm';
  /** What the server asks for, where it asks for something. */
  readonly token: string;
}

const KEY = 'ditch:farm';

function load(): Where {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Where>;
    return { where: kept.where === 'farm' ? 'farm' : 'here', token: kept.token ?? '' };
  } catch {
    return { where: 'here', token: '' };
  }
}

export const useWhere = create<Where>(load);

export function setWhere(change: Partial<Where>): void {
  useWhere.setState(change);
  try {
    localStorage.setItem(KEY, JSON.stringify(useWhere.getState()));
  } catch {
    // Without storage the choice lasts for this visit.
  }
}

export const isOnFarm = (): boolean => useWhere.getState().where === 'farm';
