import { memo } from 'react';
import styled from 'styled-components';
import { create } from 'zustand';
import { colour } from '../theme';

interface Help {
  readonly title: string;
  readonly text: string;
}

const useHelp = create<{ help: Help | null }>(() => ({ help: null }));

/** The help beside the work: the field it was asked for at, or undefined while it is closed. */
export const useHelpBeside = create<{ readonly asked: string | undefined }>(() => ({ asked: undefined }));
/** Opens the help beside the work, at the field in hand. */
export const askHelp = (): void =>
  useHelpBeside.setState({ asked: useHelp.getState().help?.title.replace(/ \(follows\)$/, '') ?? '' });
export const closeHelp = (): void => useHelpBeside.setState({ asked: undefined });

/** Handlers that show a field's definition in the help line while it is pointed at or has the focus. */
export function helpHandlers(title: string, text: string | undefined) {
  if (!text) return {};
  const show = () => useHelp.setState({ help: { title, text } });
  const hide = () => useHelp.setState((s) => (s.help?.text === text ? { help: null } : s));
  return { onFocusCapture: show, onPointerEnter: show, onBlurCapture: hide, onPointerLeave: hide };
}

const Line = styled.p`
  /* Of one height, whatever it says: what stands above it must not move under a hand. */
  flex: none;
  height: 70px;
  padding: 8px 16px;
  overflow: auto;
  border-top: 1px solid ${colour('rule')};
  color: ${colour('quiet')};
  font-size: 11px;
  line-height: 1.4;
  b {
    color: ${colour('ink')};
    font-weight: 600;
  }
`;

/** Explains the field in hand: definition, meaning, range. */
export const HelpLine = memo(function HelpLine({ idle }: { idle: string }) {
  const help = useHelp((s) => s.help);
  return (
    <Line aria-live="off">
      {help ? (
        <>
          <b>{help.title}.</b> {help.text}
        </>
      ) : (
        idle
      )}
    </Line>
  );
});
