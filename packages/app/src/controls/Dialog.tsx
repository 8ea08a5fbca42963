import type { ReactNode } from 'react';
import { Dialog as AriaDialog, Heading, Modal as AriaModal, ModalOverlay } from 'react-aria-components';
import styled from 'styled-components';
import { colour } from '../theme';

const Overlay = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  z-index: 20;
  display: grid;
  place-items: center;
  background: rgb(20 24 26 / 40%);
`;
const Sheet = styled(AriaModal)`
  width: min(560px, 94vw);
  max-height: 86vh;
  overflow: auto;
  padding: 20px 24px;
  border: 1px solid ${colour('rule')};
  border-radius: 8px;
  background: ${colour('raised')};
  box-shadow: 0 12px 48px rgb(0 0 0 / 22%);
`;

/** A dialog over the page. */
export function Dialog({
  title,
  open,
  onClose,
  children,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Overlay isOpen={open} onOpenChange={(isOpen) => !isOpen && onClose()} isDismissable>
      <Sheet>
        <AriaDialog style={{ outline: 'none' }}>
          <Heading slot="title" style={{ fontSize: 16, marginBottom: 12 }}>
            {title}
          </Heading>
          {children}
        </AriaDialog>
      </Sheet>
    </Overlay>
  );
}
