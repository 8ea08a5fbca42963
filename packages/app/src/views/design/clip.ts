import { create } from 'zustand';
import type { Clip } from '@ditch/core/grow';

/** What was copied last, for any design of any project in this visit. */
export const useClip = create<{ readonly clip: Clip | undefined; readonly name: string }>(() => ({
  clip: undefined,
  name: '',
}));

export const keepClip = (clip: Clip, name: string): void => useClip.setState({ clip, name });
