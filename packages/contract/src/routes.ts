import type { AnySchema } from 'yup';
import type { Access } from './access.ts';
import * as r from './requests.ts';

export interface Route {
  readonly access: Access;
  readonly summary: string;
  readonly body?: AnySchema;
  /** Version of the change in If-Match: `must` = refused without (428), `may` = compared where it is sent. */
  readonly ifMatch?: 'must' | 'may';
  /** Answers one page: `?limit=` (1–1000, 200 by default) and `?after=`; the next page is in the Link header. */
  readonly paged?: true;
  /**
   * Where the fabric is named that it is about: roles bound to that fabric count, and those who do not see it are told that
   * it is not there. Absent = it concerns all of them.
   */
  readonly fabric?: 'path' | 'change' | 'rollout' | 'body' | 'body change';
  /** Fields of the body that may stand in the audit log; nothing else of it does. */
  readonly logs?: readonly string[];
  /** The body may be large: up to 8 MB instead of 256 kB. */
  readonly large?: true;
  /** It asks and changes nothing: not for the audit log, though it is no GET. */
  readonly quiet?: true;
  /** For a person at a browser only; tokens of scripts are refused. */
  readonly person?: true;
}

/** The HTTP API: every route there is, who may call it, and what its body must be. The server serves exactly these. */
export const ROUTES = {
  'GET /api/session': { access: 'anyone', summary: 'Who is signed in' },
  'POST /api/session': { access: 'anyone', summary: 'Sign in', body: r.signInRequest, logs: ['name'] },
  'DELETE /api/session': { access: 'signed in', summary: 'Sign out', person: true },
  'POST /api/first-account': {
    access: 'anyone',
    summary: 'Make the first account, once, with the code the server has printed',
    body: r.firstAccountRequest,
    logs: ['name', 'fullName'],
  },
  'POST /api/me/password': {
    access: 'signed in',
    summary: 'Change one’s own password; other sessions end',
    body: r.passwordRequest,
    person: true,
  },
  'GET /api/me/sessions': { access: 'signed in', summary: 'One’s own sessions', paged: true, person: true },
  'DELETE /api/me/sessions/:id': { access: 'signed in', summary: 'End one of one’s own sessions', person: true },
  'GET /api/me/tokens': { access: 'signed in', summary: 'One’s own tokens', paged: true, person: true },
  'POST /api/me/tokens': {
    access: 'any role',
    summary: 'Make a token for scripts; it is said once',
    body: r.tokenRequest,
    logs: ['name', 'roles', 'fabrics', 'days'],
    person: true,
  },
  'DELETE /api/me/tokens/:id': { access: 'signed in', summary: 'End one of one’s own tokens', person: true },

  'GET /api/users': { access: 'admin', summary: 'Accounts', paged: true, person: true },
  'POST /api/users': {
    access: 'admin',
    summary: 'Make an account; the answer says its first password, once',
    body: r.accountRequest,
    logs: ['name', 'fullName', 'roles', 'bound'],
    person: true,
  },
  'PATCH /api/users/:name': {
    access: 'admin',
    summary: 'Change roles and name of an account, or disable it; counts at once',
    body: r.accountPatch,
    logs: ['fullName', 'roles', 'bound', 'admin', 'disabled'],
    person: true,
  },
  'POST /api/users/:name/reset': {
    access: 'admin',
    summary: 'Give an account a new password, said once; its sessions end',
    person: true,
  },
  'DELETE /api/users/:name': { access: 'admin', summary: 'Delete an account', person: true },
  'GET /api/sessions': { access: 'admin', summary: 'All sessions, newest first', paged: true, person: true },
  'DELETE /api/sessions/:id': { access: 'admin', summary: 'End a session', person: true },
  'POST /api/sessions/end': {
    access: 'admin',
    summary: 'End all sessions of an account',
    body: r.endSessionsRequest,
    logs: ['account'],
    person: true,
  },
  'GET /api/tokens': { access: 'admin', summary: 'All tokens, newest first', paged: true, person: true },
  'DELETE /api/tokens/:id': { access: 'admin', summary: 'End a token', person: true },

  'GET /api/audit': {
    access: 'auditing',
    summary: 'The audit log, newest first; ?account= ?action= ?fabric= ?text= ?from= ?to= narrow it',
    paged: true,
  },
  'GET /api/audit/check': { access: 'auditing', summary: 'Walk the whole chain of the audit log' },
  'GET /api/audit/export': { access: 'auditing', summary: 'The whole audit log, one JSON line an entry, as chained' },

  'GET /api/settings': { access: 'signed in', summary: 'Settings' },
  'PUT /api/settings': {
    access: 'admin',
    summary: 'Change settings',
    body: r.settingsRequest,
    logs: ['secondPerson'],
    person: true,
  },
  'GET /api/openapi.json': { access: 'signed in', summary: 'This API as OpenAPI' },

  'GET /api/events': {
    access: 'any role',
    summary:
      'What changes, as server-sent events; with ?after= the number that the session said, also what changed since',
  },

  'GET /api/find': {
    access: 'any role',
    summary:
      'What fits ?q= by its name or what it says of itself, in all fabrics, best first; ?near= the fabric whose objects come first',
  },

  'GET /api/parts': { access: 'any role', summary: 'Switch models, rack patterns, fabric patterns' },
  'PUT /api/models/:name': { logs: ['name'], access: 'designer', summary: 'Put a switch model', body: r.modelSchema },
  'DELETE /api/models/:name': {
    access: 'designer',
    summary: 'Remove a switch model that no pattern names and no switch is of',
  },
  'PUT /api/rack-patterns/:name': {
    logs: ['name'],
    access: 'designer',
    summary: 'Put a rack pattern',
    body: r.rackPatternSchema,
  },
  'DELETE /api/rack-patterns/:name': {
    access: 'designer',
    summary: 'Remove a rack pattern that no fabric pattern names',
  },
  'PUT /api/fabric-patterns/:name': {
    logs: ['name'],
    access: 'designer',
    summary: 'Put a fabric pattern',
    body: r.fabricPatternSchema,
  },

  'DELETE /api/fabric-patterns/:name': {
    access: 'designer',
    summary: 'Remove a fabric pattern; fabrics laid from it stay',
  },

  'GET /api/pools': { access: 'any role', summary: 'Pools with their utilisation' },
  'POST /api/pools': {
    logs: ['name', 'kind', 'ranges'],
    access: 'designer',
    summary: 'Make a pool',
    body: r.poolSchema,
  },
  'PUT /api/pools/:name': {
    logs: ['name', 'kind', 'ranges'],
    access: 'designer',
    summary: 'Change a pool',
    body: r.poolSchema,
  },
  'DELETE /api/pools/:name': { access: 'designer', summary: 'Delete a pool nobody draws from' },
  'GET /api/ledger': {
    access: 'any role',
    summary: 'Drawn values, who holds them and since which change',
    paged: true,
  },

  'GET /api/switches': { access: 'any role', summary: 'Known switches', paged: true },
  'POST /api/switches/import': {
    large: true,
    access: 'operator',
    summary: 'Import switches from CSV',
    body: r.importRequest,
  },
  'GET /api/switches/:serial/backups': {
    access: 'any role',
    summary: 'Every text a switch was seen to run, newest first',
    paged: true,
  },
  'GET /api/switches/:serial/backups/:id': { access: 'any role', summary: 'A back-up: its documents' },
  'GET /api/switches/:serial/backups/:id/files.zip': { access: 'any role', summary: 'A back-up as files' },
  'POST /api/switches/:serial/read': { access: 'operator', summary: 'Read one switch now' },
  'POST /api/switches/:serial/out-of-service': {
    logs: ['reason'],
    access: 'operator',
    summary: 'Take a switch out of service: it is not read and not judged',
    body: r.reasonRequest,
  },
  'POST /api/switches/:serial/in-service': { access: 'operator', summary: 'Take a switch back into service' },
  'POST /api/switches/:serial/release': {
    logs: ['reason'],
    access: 'operator',
    summary: 'Give up an apply that can neither be confirmed nor taken back; the reason is logged on the switch',
    body: r.reasonRequest,
  },
  'POST /api/switches/:serial/forget': {
    logs: ['reason'],
    access: 'operator',
    summary: 'A switch that left its fabric will not come back to be cleared: nothing waits for it any more',
    body: r.reasonRequest,
  },
  'DELETE /api/switches/:serial': {
    access: 'operator',
    summary: 'Remove a switch that sits in no seat and runs nothing of ours',
  },
  'PATCH /api/switches/:serial': {
    access: 'operator',
    summary: 'Address, port, place and account of a switch',
    body: r.switchPatch,
    logs: ['address', 'port', 'location', 'account'],
  },
  'POST /api/switches/host-keys': {
    access: 'operator',
    summary: 'Accept the host keys that switches were seen to show, by name',
    body: r.hostKeysRequest,
    logs: ['accept'],
  },
  'POST /api/switches/:serial/accept-version': {
    logs: ['version', 'reason'],
    access: 'operator',
    summary: 'Its dialect may write to all switches that run the version this one runs',
    body: r.versionRequest,
  },
  'GET /api/switch-accounts': { access: 'any role', summary: 'Accounts used on switches, and for which addresses' },
  'PUT /api/switch-accounts/:name': {
    access: 'admin',
    summary: 'Put an account used on switches',
    body: r.switchAccountRequest,
    logs: ['username', 'ranges', 'note'],
    person: true,
  },
  'DELETE /api/switch-accounts/:name': {
    access: 'admin',
    summary: 'Delete an account that no switch names',
    person: true,
  },
  'GET /api/secrets': { access: 'any role', summary: 'Secrets of configurations, by name; never their values' },
  'PUT /api/secrets/:name': {
    access: 'designer',
    summary: 'Put the value of a secret; it reaches switches by a change that takes it up',
    body: r.secretRequest,
    logs: ['note'],
  },
  'DELETE /api/secrets/:name': { access: 'designer', summary: 'Forget a name; revisions that use the value keep it' },

  'GET /api/fabrics': { access: 'any role', summary: 'Fabrics', paged: true },
  'POST /api/fabrics': {
    logs: ['name', 'namePrefix', 'title'],
    access: 'designer',
    summary: 'Begin a fabric and the change that builds it',
    body: r.fabricRequest,
  },
  'GET /api/fabrics/:name': {
    fabric: 'path',
    access: 'any role',
    summary: 'A fabric, live or as ?change= would have it',
  },
  'DELETE /api/fabrics/:name': {
    fabric: 'path',
    access: 'designer',
    summary: 'Forget a fabric that never went live, with its changes',
  },
  'GET /api/fabrics/:name/proof': {
    fabric: 'path',
    access: 'any role',
    summary: 'The proof of what is live, with nothing changed',
  },
  'GET /api/fabrics/:name/ask': {
    fabric: 'path',
    access: 'any role',
    summary:
      'One ?question= to the network it makes, live or with ?change=: “routes SWITCH [in VRF] [to ADDRESS]”, “reach SERVER SERVER”, “hears PREFIX”, “hears vni NUMBER”, “differs”',
  },
  'GET /api/fabrics/:name/routing': {
    fabric: 'path',
    access: 'any role',
    summary:
      'Who speaks BGP or OSPF with whom, and by which policies, live or with ?change=; with ?of=SWITCH its neighbours alone',
  },
  'GET /api/fabrics/:name/outside': {
    fabric: 'path',
    access: 'any role',
    summary:
      'The lines of the other side of sessions with routers outside and with servers that speak BGP, to be handed over; live or with ?change=',
  },
  'GET /api/fabrics/:name/intent.yaml': { fabric: 'path', access: 'any role', summary: 'The intent file' },
  'GET /api/fabrics/:name/text/:seat': {
    fabric: 'path',
    access: 'any role',
    summary: 'Text of one switch: live, meant, running, and the origin of each line',
  },
  'GET /api/fabrics/:name/between': {
    fabric: 'path',
    access: 'any role',
    summary:
      'The fabric at two moments, ?left= and ?right=: live, meant (with ?change=), running, revision-N; edits, and lines of each switch',
  },
  'GET /api/fabrics/:name/between/:seat': {
    fabric: 'path',
    access: 'any role',
    summary:
      'Texts of a switch at two moments, ?left= and ?right= (also kept-N, a back-up), or with ?with=SEAT of two switches: lines, and what differs in meaning',
  },
  'GET /api/fabrics/:name/texts.zip': {
    fabric: 'path',
    access: 'any role',
    summary: 'All texts of a fabric at a moment (?at=: live, running, revision-N), a folder for each switch',
  },
  'GET /api/fabrics/:name/revisions': {
    fabric: 'path',
    access: 'any role',
    summary: 'Revisions, newest first',
    paged: true,
  },
  'POST /api/fabrics/:name/intent': {
    fabric: 'path',
    large: true,
    logs: ['title'],
    access: 'designer',
    summary: 'Open a change that makes of the fabric what an intent file (YAML or JSON) says',
    body: r.takeFileRequest,
  },
  'POST /api/fabrics/:name/return': {
    fabric: 'path',
    logs: ['revision'],
    access: 'designer',
    summary: 'Return to an earlier revision as a new change',
    body: r.returnRequest,
  },
  'POST /api/fabrics/:name/catch-up': {
    fabric: 'path',
    logs: ['stopLine', 'undoSeconds'],
    access: 'operator',
    summary: 'Send what is live to the switches that wait for it',
    body: r.catchUpRequest,
  },
  'GET /api/fabrics/:name/live': {
    fabric: 'path',
    access: 'any role',
    summary: 'What was read of the switches: how each is, links and sessions that are not up, what is wrong and why',
  },
  'POST /api/fabrics/:name/read': {
    fabric: 'path',
    quiet: true,
    access: 'any role',
    summary: 'Read every switch of a fabric now, state and text; answers with what was read',
  },
  'POST /api/fabrics/:name/heard': {
    fabric: 'path',
    quiet: true,
    access: 'any role',
    summary: 'Ask the switches now on which port they hear a server, a MAC address or an address',
    body: r.heardRequest,
  },
  'POST /api/fabrics/:name/traffic': {
    fabric: 'path',
    quiet: true,
    access: 'any role',
    summary: 'Ask the switch of a seat now what goes over its ports, by what they count within two seconds',
    body: r.trafficRequest,
  },
  'GET /api/fabrics/:name/touched': {
    fabric: 'path',
    access: 'any role',
    summary: 'Who touched an object last (?at=network:echo-store), live or, with ?change=, in an open change; or null',
  },
  'GET /api/fabrics/:name/causes': {
    fabric: 'path',
    access: 'any role',
    summary: 'What was wrong, newest first, with its end',
    paged: true,
  },
  'POST /api/fabrics/:name/put-back': {
    logs: ['serials', 'reason'],
    fabric: 'path',
    access: 'operator',
    summary: 'Roll out what is meant to switches that were edited by hand',
    body: r.putBackRequest,
  },
  'POST /api/fabrics/:name/adopt': {
    logs: ['serials', 'change', 'title'],
    fabric: 'path',
    access: 'designer',
    summary: 'Say hand edits as edits in a change: an open one, or a new one',
    body: r.adoptRequest,
  },
  'POST /api/fabrics/:name/adopt/preview': {
    fabric: 'path',
    quiet: true,
    access: 'any role',
    summary: 'What adopting would edit, and what the intent cannot say',
    body: r.adoptPreviewRequest,
  },

  'GET /api/day': {
    access: 'any role',
    summary: 'The day sheet: what is wrong, what waits for the caller, what came in',
  },
  'GET /api/here': { access: 'any role', summary: 'Who looks at ?fabric= now' },
  'PUT /api/here': {
    access: 'any role',
    quiet: true,
    person: true,
    summary: 'Say what one looks at; it is forgotten after a minute',
    body: r.hereRequest,
  },

  'GET /api/changes': { access: 'any role', summary: 'Changes, newest first', paged: true },
  'POST /api/changes': {
    fabric: 'body',
    logs: ['fabric', 'title', 'reason', 'ticket'],
    access: 'designer',
    summary: 'Open a change',
    body: r.changeRequest,
  },
  'GET /api/changes/:id': { fabric: 'change', access: 'any role', summary: 'A change with its edits and proof' },
  'PATCH /api/changes/:id': {
    fabric: 'change',
    logs: ['title', 'reason', 'ticket'],
    access: 'designer',
    summary: 'Retitle a change',
    body: r.changePatchRequest,
    ifMatch: 'must',
  },
  'POST /api/changes/:id/edits': {
    fabric: 'change',
    logs: ['edits'],
    large: true,
    access: 'designer',
    summary: 'Add edits, draw values, prove',
    body: r.editsRequest,
    ifMatch: 'may',
  },
  'DELETE /api/changes/:id/edits/:position': {
    fabric: 'change',
    access: 'designer',
    summary: 'Undo one edit',
    ifMatch: 'must',
  },
  'POST /api/changes/:id/edits/:position/keep': {
    fabric: 'change',
    access: 'designer',
    summary: 'Keep an edit in conflict as it is',
    ifMatch: 'must',
  },
  'POST /api/changes/:id/prove': { fabric: 'change', access: 'designer', summary: 'Prove again', ifMatch: 'may' },
  'POST /api/changes/:id/approve': {
    fabric: 'change',
    logs: ['note'],
    access: 'approver',
    summary: 'Approve a proven change',
    body: r.approvalRequest,
    ifMatch: 'must',
  },
  'POST /api/changes/:id/ask': {
    fabric: 'change',
    access: 'designer',
    ifMatch: 'must',
    summary: 'Ask those who may approve for their yes',
  },
  'POST /api/changes/:id/rehearsal': {
    fabric: 'change',
    access: 'designer',
    summary: 'Rehearse a change: run what it would send on real daemons and compare them with the proof',
  },
  'GET /api/changes/:id/rehearsal': {
    fabric: 'change',
    access: 'any role',
    summary: 'How far its rehearsal has come, or what came of it; null = none was held',
  },
  'GET /api/changes/:id/clashes': {
    fabric: 'change',
    access: 'any role',
    summary: 'What would conflict if another open change of the fabric went live first',
  },
  'POST /api/changes/:id/withdraw': {
    fabric: 'change',
    access: 'designer',
    summary: 'Withdraw a change and give its values back',
    ifMatch: 'must',
  },

  'GET /api/rollouts': { access: 'any role', summary: 'Rollouts, newest first', paged: true },
  'POST /api/rollouts': {
    fabric: 'body change',
    logs: ['change', 'stopLine', 'undoSeconds', 'breakIn', 'reason'],
    access: 'operator',
    summary: 'Roll an approved change out',
    body: r.rolloutRequest,
    ifMatch: 'may',
  },
  'GET /api/rollouts/:id': { fabric: 'rollout', access: 'any role', summary: 'A rollout, switch by switch' },
  'GET /api/rollouts/:id/log': {
    fabric: 'rollout',
    access: 'any role',
    summary: 'Its log, for one switch with ?host=',
    paged: true,
  },
  'GET /api/rollouts/:id/events': {
    fabric: 'rollout',
    access: 'any role',
    summary: 'Its progress as server-sent events',
  },
  'POST /api/rollouts/:id/pause': {
    fabric: 'rollout',
    access: 'operator',
    summary: 'Pause after the switches under way',
  },
  'POST /api/rollouts/:id/resume': { fabric: 'rollout', access: 'operator', summary: 'Go on' },
  'POST /api/rollouts/:id/retry': { fabric: 'rollout', access: 'operator', summary: 'Retry the failed, then go on' },
  'POST /api/rollouts/:id/close': {
    fabric: 'rollout',
    logs: ['reason'],
    access: 'operator',
    summary: 'Close as it stands: the change goes live, switches it did not reach wait',
    body: r.reasonRequest,
  },
  'POST /api/rollouts/:id/undo': {
    fabric: 'rollout',
    access: 'operator',
    summary: 'Return every switch it touched to before',
  },

  'GET /api/bench': { access: 'any role', summary: 'The bench, where one is attached' },
  'POST /api/bench/cables': {
    fabric: 'body',
    logs: ['fabric', 'change'],
    access: 'operator',
    summary: 'Cable the bench by the plan of a fabric',
    body: r.cableBenchRequest,
  },
  'POST /api/bench/faults': {
    logs: ['serial', 'fault', 'on'],
    access: 'operator',
    summary: 'Switch a fault on or off',
    body: r.faultRequest,
  },
  'POST /api/bench/pull': {
    logs: ['serial', 'port', 'pulled'],
    access: 'operator',
    summary: 'Pull or plug a cable',
    body: r.pullRequest,
  },
  'POST /api/bench/swap': {
    logs: ['a', 'b'],
    access: 'operator',
    summary: 'Swap the far ends of two cables',
    body: r.swapRequest,
  },
  'POST /api/bench/hand-edit': {
    logs: ['serial', 'file'],
    access: 'operator',
    summary: 'Edit the running text of a bench switch by hand',
    body: r.handEditRequest,
  },
} as const satisfies Record<string, Route>;

export type RouteName = keyof typeof ROUTES;
