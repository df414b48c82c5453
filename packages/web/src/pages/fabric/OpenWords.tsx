import { Row } from '../../parts/basics.tsx';
import { StateMark } from '../../parts/StateMark.tsx';

/** Whether a port is open. */
export const OpenWords = ({ of }: { readonly of: { readonly shut?: boolean } }) =>
  of.shut ? (
    <Row $gap={5}>
      <StateMark mood="folded" size={12} /> shut
    </Row>
  ) : (
    <>open</>
  );
