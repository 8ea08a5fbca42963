import type { ReactNode } from 'react';
import styled from 'styled-components';
import { colour } from '../theme';

const Box = styled.div`
  display: grid;
  place-content: center;
  gap: 6px;
  height: 100%;
  padding: 40px;
  text-align: center;
  color: ${colour('quiet')};
  h1 {
    color: ${colour('ink')};
    font-size: 17px;
  }
`;

/** A page with nothing to show, and what can be done about it. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <Box>
      <h1>{title}</h1>
      <p>{children}</p>
    </Box>
  );
}
