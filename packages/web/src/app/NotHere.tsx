import { Link } from 'react-router';
import { Page } from './Page.tsx';
import { Empty } from '../parts/basics.tsx';

export function NotHere() {
  return (
    <Page title="Nothing here">
      <Empty title="There is no such page" action={<Link to="/">Back to the start</Link>}>
        The address may be from an older version, or mistyped.
      </Empty>
    </Page>
  );
}
