import type { AnySchema } from 'yup';
import type { Role } from './answers.ts';
import * as r from './requests.ts';

/** Who may call a route: anyone, anyone signed in, those with a role, or those who keep accounts. */
export type Access = 'anyone' | 'signed in' | 'admin' | Role;

export interface Route {
  readonly access: Access;
  readonly summary: string;
  readonly body?: AnySchema;
  /** Version of the change in If-Match: `must` = refused without (428), `may` = compared where it is sent. */
  readonly ifMatch?: 'must' | 'may';
  /** Answers one page: `?limit=` (1–1000, 200 by default) and `?after=`; the next page is in the Link header. */
  readonly paged?: true;
}

/** The HTTP API: every route there is, who may call it, and what its body must be. The server serves exactly these. */
export const ROUTES = {
  'GET /api/session': { access: 'anyone', summary: 'Who is signed in' },
  'POST /api/session': { access: 'anyone', summary: 'Sign in', body: r.signInRequest },
  'DELETE /api/session': { access: 'signed in', summary: 'Sign out' },
  'POST /api/first-account': { access: 'anyone', summary: 'Make the first account, once', body: r.accountRequest },
  'GET /api/users': { access: 'admin', summary: 'Accounts', paged: true },
  'POST /api/users': { access: 'admin', summary: 'Make an account', body: r.accountRequest },
  'GET /api/settings': { access: 'signed in', summary: 'Settings' },
  'PUT /api/settings': { access: 'admin', summary: 'Change settings', body: r.settingsRequest },
  'GET /api/openapi.json': { access: 'anyone', summary: 'This API as OpenAPI' },

  'GET /api/events': { access: 'signed in', summary: 'What changes, as server-sent events' },

  'GET /api/parts': { access: 'signed in', summary: 'Switch models, rack patterns, fabric patterns' },
  'PUT /api/models/:name': { access: 'designer', summary: 'Put a switch model', body: r.modelSchema },
  'PUT /api/rack-patterns/:name': { access: 'designer', summary: 'Put a rack pattern', body: r.rackPatternSchema },
  'PUT /api/fabric-patterns/:name': {
    access: 'designer',
    summary: 'Put a fabric pattern',
    body: r.fabricPatternSchema,
  },

  'GET /api/pools': { access: 'signed in', summary: 'Pools with their utilisation' },
  'POST /api/pools': { access: 'designer', summary: 'Make a pool', body: r.poolSchema },
  'PUT /api/pools/:name': { access: 'designer', summary: 'Change a pool', body: r.poolSchema },
  'DELETE /api/pools/:name': { access: 'designer', summary: 'Delete a pool nobody draws from' },
  'GET /api/ledger': {
    access: 'signed in',
    summary: 'Drawn values, who holds them and since which change',
    paged: true,
  },

  'GET /api/switches': { access: 'signed in', summary: 'Known switches', paged: true },
  'POST /api/switches/import': { access: 'operator', summary: 'Import switches from CSV', body: r.importRequest },
  'POST /api/switches/:serial/read': { access: 'operator', summary: 'Read one switch now' },
  'POST /api/switches/:serial/release': {
    access: 'operator',
    summary: 'Give up an apply that can neither be confirmed nor taken back; the reason is logged on the switch',
    body: r.reasonRequest,
  },
  'POST /api/switches/:serial/forget': {
    access: 'operator',
    summary: 'A switch that left its fabric will not come back to be cleared: nothing waits for it any more',
    body: r.reasonRequest,
  },
  'PUT /api/switch-credential': {
    access: 'operator',
    summary: 'Set the account used on switches',
    body: r.credentialRequest,
  },

  'GET /api/fabrics': { access: 'signed in', summary: 'Fabrics', paged: true },
  'POST /api/fabrics': {
    access: 'designer',
    summary: 'Begin a fabric and the change that builds it',
    body: r.fabricRequest,
  },
  'GET /api/fabrics/:name': { access: 'signed in', summary: 'A fabric, live or as ?change= would have it' },
  'GET /api/fabrics/:name/proof': { access: 'signed in', summary: 'The proof of what is live, with nothing changed' },
  'GET /api/fabrics/:name/intent.yaml': { access: 'signed in', summary: 'The intent file' },
  'GET /api/fabrics/:name/text/:seat': {
    access: 'signed in',
    summary: 'Text of one switch: live, meant, running, and the origin of each line',
  },
  'GET /api/fabrics/:name/revisions': { access: 'signed in', summary: 'Revisions, newest first', paged: true },
  'POST /api/fabrics/:name/return': {
    access: 'designer',
    summary: 'Return to an earlier revision as a new change',
    body: r.returnRequest,
  },
  'POST /api/fabrics/:name/catch-up': {
    access: 'operator',
    summary: 'Send what is live to the switches that wait for it',
    body: r.catchUpRequest,
  },
  'POST /api/fabrics/:name/live': {
    access: 'signed in',
    summary: 'Ask the switches what they see now: neighbours and sessions',
  },

  'GET /api/changes': { access: 'signed in', summary: 'Changes, newest first', paged: true },
  'POST /api/changes': { access: 'designer', summary: 'Open a change', body: r.changeRequest },
  'GET /api/changes/:id': { access: 'signed in', summary: 'A change with its edits and proof' },
  'PATCH /api/changes/:id': {
    access: 'designer',
    summary: 'Retitle a change',
    body: r.changePatchRequest,
    ifMatch: 'must',
  },
  'POST /api/changes/:id/edits': {
    access: 'designer',
    summary: 'Add edits, draw values, prove',
    body: r.editsRequest,
    ifMatch: 'may',
  },
  'DELETE /api/changes/:id/edits/:position': { access: 'designer', summary: 'Undo one edit', ifMatch: 'must' },
  'POST /api/changes/:id/edits/:position/keep': {
    access: 'designer',
    summary: 'Keep an edit in conflict as it is',
    ifMatch: 'must',
  },
  'POST /api/changes/:id/prove': { access: 'designer', summary: 'Prove again', ifMatch: 'may' },
  'POST /api/changes/:id/approve': {
    access: 'approver',
    summary: 'Approve a proven change',
    body: r.approvalRequest,
    ifMatch: 'must',
  },
  'POST /api/changes/:id/withdraw': {
    access: 'designer',
    summary: 'Withdraw a change and give its values back',
    ifMatch: 'must',
  },

  'GET /api/rollouts': { access: 'signed in', summary: 'Rollouts, newest first', paged: true },
  'POST /api/rollouts': {
    access: 'operator',
    summary: 'Roll an approved change out',
    body: r.rolloutRequest,
    ifMatch: 'may',
  },
  'GET /api/rollouts/:id': { access: 'signed in', summary: 'A rollout, switch by switch' },
  'GET /api/rollouts/:id/log': { access: 'signed in', summary: 'Its log, for one switch with ?host=', paged: true },
  'GET /api/rollouts/:id/events': { access: 'signed in', summary: 'Its progress as server-sent events' },
  'POST /api/rollouts/:id/pause': { access: 'operator', summary: 'Pause after the switches under way' },
  'POST /api/rollouts/:id/resume': { access: 'operator', summary: 'Go on' },
  'POST /api/rollouts/:id/retry': { access: 'operator', summary: 'Retry the failed, then go on' },
  'POST /api/rollouts/:id/close': {
    access: 'operator',
    summary: 'Close as it stands: the change goes live, switches it did not reach wait',
    body: r.reasonRequest,
  },
  'POST /api/rollouts/:id/undo': { access: 'operator', summary: 'Return every switch it touched to before' },

  'GET /api/bench': { access: 'signed in', summary: 'The bench, where one is attached' },
  'POST /api/bench/cables': {
    access: 'operator',
    summary: 'Cable the bench by the plan of a fabric',
    body: r.cableBenchRequest,
  },
  'POST /api/bench/faults': { access: 'operator', summary: 'Switch a fault on or off', body: r.faultRequest },
  'POST /api/bench/pull': { access: 'operator', summary: 'Pull or plug a cable', body: r.pullRequest },
  'POST /api/bench/hand-edit': {
    access: 'operator',
    summary: 'Edit the running text of a bench switch by hand',
    body: r.handEditRequest,
  },
} as const satisfies Record<string, Route>;

export type RouteName = keyof typeof ROUTES;
