import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import { Dialog as AriaDialog, Heading, Modal, ModalOverlay } from 'react-aria-components';
import { styled } from 'styled-components';
import { serif, token } from './theme.ts';
import { IconButton } from './basics.tsx';

interface Props {
  readonly title: string;
  readonly isOpen: boolean;
  readonly onClose: () => void;
  readonly children: ReactNode;
  readonly width?: number;
}
/** A dialog for a decision. Escape closes it. */
export function Dialog({ title, isOpen, onClose, children, width = 480 }: Props) {
  return (
    <Overlay isOpen={isOpen} onOpenChange={(open) => !open && onClose()} isDismissable>
      <Box style={{ width }}>
        <AriaDialog>
          <Head>
            <Heading slot="title">{title}</Heading>
            <IconButton aria-label="Close" onPress={onClose}>
              <X size={16} />
            </IconButton>
          </Head>
          {children}
        </AriaDialog>
      </Box>
    </Overlay>
  );
}
const Overlay = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  background: ${token('shade')};
  display: grid;
  place-items: start center;
  padding-top: 9vh;
  z-index: 20;
`;
const Box = styled(Modal)`
  max-width: calc(100vw - 32px);
  max-height: 82vh;
  overflow: auto;
  background: ${token('sheet')};
  border: 1px solid ${token('rule')};
  border-radius: 6px;
  box-shadow: 0 18px 60px ${token('shade')};
  padding: 18px 22px 20px;
  section {
    outline: none;
  }
`;
const Head = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 12px;
  h2 {
    font: 600 19px ${serif};
  }
`;
