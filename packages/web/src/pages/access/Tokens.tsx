import { AccessPage } from './AccessPage.tsx';
import { TokenList } from './TokenList.tsx';

/** Everybody's tokens; each makes their own under their name. */
export const Tokens = () => (
  <AccessPage title="Tokens" sub="what scripts sign in with; each person makes their own">
    <TokenList whose="all" />
  </AccessPage>
);
