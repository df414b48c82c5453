import { AccessPage } from './AccessPage.tsx';
import { SessionList } from './SessionList.tsx';

/** Everybody who is signed in. */
export const Sessions = () => (
  <AccessPage title="Sessions" sub="who is signed in, from where">
    <SessionList whose="all" />
  </AccessPage>
);
