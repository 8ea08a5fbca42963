import { lazy, memo, Suspense, useRef, useState, type ReactNode } from 'react';
import { QuietButton } from './basics';
import type { Command, MenuFocus, OpeningProps } from './command';

// What opens over the page is not needed to show it.
export const loadMenu = () => import('./OpenMenu');
const OpenMenu = lazy(loadMenu);

/** A list of commands hanging from an element; mounted while it is open. */
export function Opening(props: OpeningProps) {
  return (
    <Suspense>
      <OpenMenu {...props} />
    </Suspense>
  );
}

/** A button that opens a list of commands, which are asked for when it opens. */
export const Menu = memo(function Menu({
  label,
  commands,
  ariaLabel,
  hang = 'end',
}: {
  label: ReactNode;
  ariaLabel?: string;
  /** Edge of the button under which the list hangs. */
  hang?: 'start' | 'end';
  commands: () => readonly Command[];
}) {
  const button = useRef<HTMLButtonElement>(null);
  const [open, setOpen] = useState<MenuFocus>();
  return (
    <>
      <QuietButton
        ref={button}
        aria-label={ariaLabel}
        aria-haspopup="menu"
        aria-expanded={open !== undefined}
        onPress={({ pointerType }) =>
          setOpen(pointerType === 'keyboard' || pointerType === 'virtual' ? 'first' : true)
        }
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setOpen('first');
          else if (event.key === 'ArrowUp') setOpen('last');
          else event.continuePropagation();
        }}
      >
        {label}
      </QuietButton>
      {open !== undefined && button.current && (
        <Opening
          from={button.current}
          label={ariaLabel ?? (typeof label === 'string' ? label : 'menu')}
          focus={open}
          hang={hang}
          commands={commands}
          onClose={() => setOpen(undefined)}
        />
      )}
    </>
  );
});
