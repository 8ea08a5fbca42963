import type { ReactNode } from 'react';
import styled from 'styled-components';
import type { Design, Plot, Project } from '@ditch/core/network';
import { SideScroll } from '../side';
import { colour } from '../../theme';

export type StudyName = 'family' | 'spread';
export const STUDIES = [
  { id: 'family', label: 'Family' },
  { id: 'spread', label: 'Spread' },
] as const;

export interface StudyProps {
  readonly project: Project;
  readonly design: Design;
  /** Chooses between the studies. */
  readonly choice: ReactNode;
}

export const Page = styled.div`
  display: grid;
  grid-template-columns: 352px minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr);
  height: 100%;
  min-height: 0;
`;
export const Scroll = styled(SideScroll)`
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 12px 16px;
`;
export const Work = styled.div`
  display: grid;
  grid-template-rows: minmax(0, 54fr) minmax(0, 46fr);
  min-width: 0;
  min-height: 0;
  background: ${colour('raised')};
  > section + section {
    border-top: 1px solid ${colour('rule')};
  }
`;
export const Fields = styled.div`
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  align-items: center;
  gap: 3px 8px;
  > span {
    font-size: 12px;
  }
`;
export const Note = styled.p`
  color: ${colour('quiet')};
  font-size: 12px;
  line-height: 1.4;
`;

/** What a picture of its own is drawn in. */
export const Canvas = styled.div`
  position: absolute;
  inset: 0;
  contain: strict;
  svg {
    display: block;
  }
  text {
    fill: ${colour('quiet')};
    font-size: 11px;
  }
`;

/** Pictures that are curves over frequency. */
export const rectangular = (plots: readonly Plot[]): readonly Plot[] =>
  plots.filter((p) => p.show !== 'smith');
