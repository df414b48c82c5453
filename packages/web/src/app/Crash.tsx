import { useRouteError } from 'react-router';
import { Button, Failure } from '../parts/basics.tsx';

/** Shown when a page itself breaks; what was made in a change is on the server and safe. */
export function Crash() {
  const error = useRouteError();
  return (
    <main style={{ padding: 40 }}>
      <Failure
        title="This page broke"
        detail={`${error instanceof Error ? error.message : 'Something unexpected happened'}. Your change is kept on the server.`}
      />
      <Button $kind="main" onPress={() => window.location.assign('/')}>
        Start again
      </Button>
    </main>
  );
}
