import { ROLES, ROUTES, type NewToken, type Role } from '@anthemion/contract';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { beginFabric } from '../services/fabrics.ts';
import { Bare } from '../testing/bare.ts';
import { INES } from '../testing/smallHouse.ts';
import type { Caller } from '../testing/world.ts';

/**
 * Who may call what, written down once more and apart from the contract: a route that is opened by mistake is seen here.
 * Need, then where it counts: `all` = it concerns all fabrics, else where the fabric is named; `*` = people only, no tokens.
 */
const TABLE = `
anyone    all       GET /api/session
anyone    all       POST /api/session
signed-in all  *    DELETE /api/session
anyone    all       POST /api/first-account
signed-in all  *    POST /api/me/password
signed-in all  *    GET /api/me/sessions
signed-in all  *    DELETE /api/me/sessions/:id
signed-in all  *    GET /api/me/tokens
looks     all  *    POST /api/me/tokens
signed-in all  *    DELETE /api/me/tokens/:id
admin     all  *    GET /api/users
admin     all  *    POST /api/users
admin     all  *    PATCH /api/users/:name
admin     all  *    POST /api/users/:name/reset
admin     all  *    DELETE /api/users/:name
admin     all  *    GET /api/sessions
admin     all  *    DELETE /api/sessions/:id
admin     all  *    POST /api/sessions/end
admin     all  *    GET /api/tokens
admin     all  *    DELETE /api/tokens/:id
auditing  all       GET /api/audit
auditing  all       GET /api/audit/check
auditing  all       GET /api/audit/export
signed-in all       GET /api/settings
admin     all  *    PUT /api/settings
signed-in all       GET /api/openapi.json
looks     all       GET /api/events
looks     all       GET /api/find
looks     all       GET /api/parts
designer  all       PUT /api/models/:name
designer  all       PUT /api/rack-patterns/:name
designer  all       PUT /api/fabric-patterns/:name
designer  all       DELETE /api/models/:name
designer  all       DELETE /api/rack-patterns/:name
designer  all       DELETE /api/fabric-patterns/:name
looks     all       GET /api/pools
designer  all       POST /api/pools
designer  all       PUT /api/pools/:name
designer  all       DELETE /api/pools/:name
looks     all       GET /api/ledger
looks     all       GET /api/switches
operator  all       POST /api/switches/import
looks     all       GET /api/switches/:serial/backups
looks     all       GET /api/switches/:serial/backups/:id
looks     all       GET /api/switches/:serial/backups/:id/files.zip
operator  all       POST /api/switches/:serial/read
operator  all       POST /api/switches/:serial/out-of-service
operator  all       POST /api/switches/:serial/in-service
operator  all       POST /api/switches/:serial/release
operator  all       POST /api/switches/:serial/forget
operator  all       PATCH /api/switches/:serial
operator  all       DELETE /api/switches/:serial
operator  all       POST /api/switches/host-keys
operator  all       POST /api/switches/:serial/accept-version
looks     all       GET /api/switch-accounts
admin     all  *    PUT /api/switch-accounts/:name
admin     all  *    DELETE /api/switch-accounts/:name
looks     all       GET /api/secrets
designer  all       PUT /api/secrets/:name
designer  all       DELETE /api/secrets/:name
looks     all       GET /api/fabrics
designer  all       POST /api/fabrics
looks     fabric    GET /api/fabrics/:name
designer  fabric    DELETE /api/fabrics/:name
looks     fabric    GET /api/fabrics/:name/proof
looks     fabric    GET /api/fabrics/:name/ask
looks     fabric    GET /api/fabrics/:name/routing
looks     fabric    GET /api/fabrics/:name/outside
looks     fabric    GET /api/fabrics/:name/intent.yaml
looks     fabric    GET /api/fabrics/:name/text/:seat
looks     fabric    GET /api/fabrics/:name/between
looks     fabric    GET /api/fabrics/:name/between/:seat
looks     fabric    GET /api/fabrics/:name/texts.zip
looks     fabric    GET /api/fabrics/:name/revisions
designer  fabric    POST /api/fabrics/:name/intent
designer  fabric    POST /api/fabrics/:name/return
operator  fabric    POST /api/fabrics/:name/catch-up
looks     fabric    GET /api/fabrics/:name/live
looks     fabric    POST /api/fabrics/:name/read
looks     fabric    POST /api/fabrics/:name/heard
looks     fabric    POST /api/fabrics/:name/traffic
looks     fabric    GET /api/fabrics/:name/touched
looks     fabric    GET /api/fabrics/:name/causes
operator  fabric    POST /api/fabrics/:name/put-back
designer  fabric    POST /api/fabrics/:name/adopt
looks     fabric    POST /api/fabrics/:name/adopt/preview
looks     all       GET /api/day
looks     all       GET /api/here
looks     all  *    PUT /api/here
looks     all       GET /api/changes
designer  fabric    POST /api/changes
looks     fabric    GET /api/changes/:id
designer  fabric    PATCH /api/changes/:id
designer  fabric    POST /api/changes/:id/edits
designer  fabric    DELETE /api/changes/:id/edits/:position
designer  fabric    POST /api/changes/:id/edits/:position/keep
designer  fabric    POST /api/changes/:id/prove
approver  fabric    POST /api/changes/:id/approve
designer  fabric    POST /api/changes/:id/ask
designer  fabric    POST /api/changes/:id/rehearsal
looks     fabric    GET /api/changes/:id/rehearsal
looks     fabric    GET /api/changes/:id/clashes
designer  fabric    POST /api/changes/:id/withdraw
looks     all       GET /api/rollouts
operator  fabric    POST /api/rollouts
looks     fabric    GET /api/rollouts/:id
looks     fabric    GET /api/rollouts/:id/log
looks     fabric    GET /api/rollouts/:id/events
operator  fabric    POST /api/rollouts/:id/pause
operator  fabric    POST /api/rollouts/:id/resume
operator  fabric    POST /api/rollouts/:id/retry
operator  fabric    POST /api/rollouts/:id/close
operator  fabric    POST /api/rollouts/:id/undo
looks     all       GET /api/bench
operator  fabric    POST /api/bench/cables
operator  all       POST /api/bench/faults
operator  all       POST /api/bench/pull
operator  all       POST /api/bench/swap
operator  all       POST /api/bench/hand-edit
`;
interface Line {
  readonly need: string;
  readonly where: 'all' | 'fabric';
  readonly people: boolean;
  readonly method: string;
  readonly path: string;
}
const LINES: readonly Line[] = TABLE.trim()
  .split('\n')
  .map((l) => {
    const [need = '', where = '', ...rest] = l.split(/\s+/);
    const people = rest[0] === '*';
    const [method = '', path = ''] = people ? rest.slice(1) : rest;
    return { need, where: where as Line['where'], people, method, path };
  });

interface Persona {
  readonly name: string;
  readonly everywhere: readonly Role[];
  readonly own: readonly Role[];
  readonly admin: boolean;
  readonly signedIn: boolean;
  readonly token: boolean;
  caller: Caller;
}

/** What the table says, worked out without the product's own code. */
function mayBy(line: Line, p: Persona, fabric: 'own' | 'other' | null): boolean {
  if (line.need === 'anyone') return true;
  if (!p.signedIn || (line.people && p.token)) return false;
  const here = [...p.everywhere, ...(fabric === 'own' ? p.own : [])];
  switch (line.need) {
    case 'signed-in':
      return true;
    case 'looks':
      return fabric === null ? p.everywhere.length + p.own.length > 0 : here.length > 0;
    case 'admin':
      return p.admin;
    case 'auditing':
      return p.admin || p.everywhere.includes('onlooker');
    default:
      return here.includes(line.need as Role);
  }
}

const bare = new Bare();
const personas: Persona[] = [];
/** By fabric: a change and a rollout of it. */
const ids: Record<'own' | 'other', { change: string; rollout: string }> = {
  own: { change: '', rollout: 'rollout-own' },
  other: { change: '', rollout: 'rollout-other' },
};
beforeAll(async () => {
  await bare.open();
  for (const [fabric, prefix] of [
    ['own', 'ow'],
    ['other', 'ot'],
  ] as const) {
    const { change } = await beginFabric(bare.server.house, { name: fabric, namePrefix: prefix, title: '' }, INES);
    ids[fabric].change = change;
    const id = ids[fabric].rollout;
    await bare.db
      .insertInto('jobs')
      .values({ id, kind: 'rollout', fabric, state: 'done', reason: '', author: 'x', started_at: '', ended_at: '' })
      .execute();
    await bare.db
      .insertInto('rollouts')
      .values({
        id,
        change_id: change,
        fabric,
        kind: 'send',
        stop_line: 1,
        undo_seconds: 10,
        waves: '[]',
        version: 1,
        base_revision: 0,
        digest: '',
        intent: null,
        drawn: '[]',
        meant: '[]',
        overtaken_by: null,
        broke_into: null,
        undoes: null,
      })
      .execute();
  }
  const add = async (name: string, everywhere: readonly Role[], own: readonly Role[], admin = false): Promise<void> => {
    const caller = await bare.account(name, everywhere, { bound: own.length > 0 ? { own } : {}, admin });
    personas.push({ name, everywhere, own, admin, signedIn: true, token: false, caller });
  };
  personas.push({
    name: 'nobody',
    everywhere: [],
    own: [],
    admin: false,
    signedIn: false,
    token: false,
    caller: bare.nobody,
  });
  await add('none', [], []);
  await add('keeper', [], [], true);
  for (const role of ROLES) {
    await add(role, [role], []);
    await add(`own-${role}`, [], [role]);
  }
  await add('all', ROLES, [], true);
  const all = personas.at(-1)!.caller;
  for (const [name, roles, fabrics] of [
    ['wide', ['operator'], []],
    ['narrow', ['designer', 'approver'], ['own']],
    ['looks', [], []],
  ] as const) {
    const { token } = await all.ask<NewToken>('POST', '/api/me/tokens', { name, roles, fabrics, days: 1 });
    const bound: readonly string[] = fabrics;
    const has: readonly Role[] = roles.length > 0 ? roles : ['onlooker'];
    personas.push({
      name: `token ${name}`,
      everywhere: bound.length === 0 ? has : [],
      own: bound.length === 0 ? [] : has,
      admin: false,
      signedIn: true,
      token: true,
      caller: bare.byToken(token),
    });
  }
});
afterAll(() => bare.close());

/** A call on a fabric that changes nothing: bodies are wrong unless they name the fabric, versions are old. */
async function call(
  line: Line,
  who: Caller,
  fabric: 'own' | 'other' | null,
): Promise<{ status: number; detail: string }> {
  const { change, rollout } = ids[fabric ?? 'own'];
  const path = line.path
    .replace(/^(\/api\/fabrics\/):name/, `$1${fabric ?? 'x'}`)
    .replace(/^(\/api\/changes\/):id/, `$1${change}`)
    .replace(/^(\/api\/rollouts\/):id/, `$1${rollout}`)
    .replaceAll(/:\w+/g, 'x');
  const body =
    line.path === '/api/changes' || line.path === '/api/bench/cables'
      ? { fabric, ...(line.path === '/api/changes' ? { title: 'A title' } : {}) }
      : line.path === '/api/rollouts'
        ? { change }
        : {};
  const gone = new AbortController();
  const answer = await fetch(`${bare.server.url}${path}`, {
    method: line.method,
    headers: {
      ...who.headers(),
      ...(line.method === 'GET' ? {} : { 'content-type': 'application/json' }),
      'if-match': '"999"',
    },
    ...(line.method === 'GET' ? {} : { body: JSON.stringify(body) }),
    signal: gone.signal,
  });
  if (answer.headers.get('content-type')?.startsWith('text/event-stream') === true) {
    gone.abort();
    return { status: answer.status, detail: '' };
  }
  const text = await answer.text();
  const detail = answer.headers.get('content-type')?.includes('problem')
    ? (JSON.parse(text) as { detail: string }).detail
    : '';
  return { status: answer.status, detail };
}

test('promise 9: every route × every role × own and other fabric, as the table has it', async () => {
  expect(LINES.map((l) => `${l.method} ${l.path}`).sort()).toEqual(Object.keys(ROUTES).sort());
  const wrong: string[] = [];
  let calls = 0;
  for (const line of LINES) {
    // Signing out would end the persona; it is tried with sessions of their own elsewhere.
    if (line.method === 'DELETE' && line.path === '/api/session') continue;
    for (const p of personas)
      for (const fabric of line.where === 'all' ? [null] : (['own', 'other'] as const)) {
        const may = mayBy(line, p, fabric);
        const { status, detail } = await call(line, p.caller, fabric);
        calls++;
        const sees = fabric === null || p.everywhere.length > 0 || (fabric === 'own' && p.own.length > 0);
        const hidden = status === 404 && /^There is no (fabric|change|rollout) \S+\.$/.test(detail);
        const fine = may
          ? status !== 401 && status !== 403 && !hidden && status < 500
          : !p.signedIn
            ? status === 401
            : // What somebody does not see is not there for them; where they see and may not, they are told so.
              status === 403 || (!sees && hidden);
        if (!fine) wrong.push(`${p.name} ${line.method} ${line.path} on ${fabric}: ${status} ${detail}`);
      }
  }
  expect(wrong).toEqual([]);
  expect(calls).toBeGreaterThan(1500);
});

test('promise 9: lists show what somebody sees, and nothing of other fabrics', async () => {
  const bound = personas.find((p) => p.name === 'own-onlooker')!.caller;
  for (const [path, of] of [
    ['/api/fabrics', 'name'],
    ['/api/changes', 'fabric'],
    ['/api/rollouts', 'fabric'],
  ] as const) {
    const rows = await bound.ask<Record<string, string>[]>('GET', path);
    expect([path, [...new Set(rows.map((r) => r[of]))]]).toEqual([path, ['own']]);
  }
});
