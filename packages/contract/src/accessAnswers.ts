/** What people may do. Whoever has a role may look. */
export const ROLES = ['designer', 'approver', 'operator', 'onlooker', 'scripter'] as const;
/** `scripter` may put text on switches that runs programs there or uses other files. */
export type Role = (typeof ROLES)[number];

export interface User {
  readonly name: string;
  readonly fullName: string;
  /** Roles that hold everywhere. */
  readonly roles: readonly Role[];
  /** Roles that hold on one fabric, by its name, besides. */
  readonly bound: Readonly<Record<string, readonly Role[]>>;
  /** Keeps accounts and settings. */
  readonly admin: boolean;
}

/** An account as those see it who keep them. */
export interface AccountAnswer extends User {
  readonly disabled: boolean;
  /** Its password was given out and has not been changed yet. */
  readonly mustChange: boolean;
  readonly madeAt: string;
  readonly passwordAt: string;
  /** Last seen in a session that is still there, or null. */
  readonly seenAt: string | null;
}
/** A password that is given out once; it only opens the door to set another. */
export interface GivenPassword {
  readonly name: string;
  readonly password: string;
}

/** Somebody's session. */
export interface SessionRow {
  readonly id: string;
  readonly account: string;
  readonly beganAt: string;
  readonly seenAt: string;
  readonly address: string;
  /** What the browser calls itself. */
  readonly agent: string;
  /** The session that asks. */
  readonly own: boolean;
}

export interface TokenAnswer {
  readonly id: string;
  readonly account: string;
  readonly name: string;
  /** Roles it has as far as its owner has them; empty = it only looks. */
  readonly roles: readonly Role[];
  /** Fabrics it is bound to; empty = as its owner. */
  readonly fabrics: readonly string[];
  readonly madeAt: string;
  readonly endsAt: string;
  readonly usedAt: string | null;
}
/** The token itself is said once, when it is made. */
export interface NewToken extends TokenAnswer {
  readonly token: string;
}

export interface AuditEntry {
  /** Place in the log, from 1. */
  readonly n: number;
  readonly at: string;
  /** Who; empty = nobody was signed in, `server` = it did so by itself. */
  readonly account: string;
  /** `session`, `token NAME`, `server` or `nobody`. */
  readonly via: string;
  readonly address: string;
  /** What was asked, such as `POST /api/changes`. */
  readonly action: string;
  readonly fabric: string;
  /** What it was about. */
  readonly subject: string;
  readonly detail: string;
  readonly outcome: string;
  readonly endedAt: string | null;
  /** SHA-256 over this entry and the one before. */
  readonly hash: string;
}
export interface AuditCheck {
  readonly entries: number;
  /** First entry that is not what was written; null = the chain is whole. */
  readonly brokenAt: number | null;
}

/** An account that is used on switches; what it signs in with never comes back. */
export interface SwitchAccountAnswer {
  readonly name: string;
  readonly username: string;
  readonly with: 'password' | 'key' | 'nothing';
  /** Prefixes of the addresses it may be sent to. */
  readonly ranges: readonly string[];
  readonly note: string;
  readonly changedAt: string;
  readonly changedBy: string;
  /** Switches that name it. */
  readonly switches: number;
}

/** A secret of configurations, by name; its value never comes back. */
export interface SecretAnswer {
  readonly name: string;
  /** Keyed digest of the value that is given out now. */
  readonly digest: string;
  readonly note: string;
  readonly changedAt: string;
  readonly changedBy: string;
}

export interface SessionAnswer {
  readonly user: User | null;
  /** The password was given out by somebody else: until it is changed, nothing else can be done. */
  readonly mustChange: boolean;
  /** No account exists yet: the first one is made here, with the code the server has printed. */
  readonly firstStart: boolean;
  /** Number of the last message of the stream of events when this was answered; absent = nobody is signed in. */
  readonly told?: number;
  /** Accounts of the demo, shown on the sign-in page; empty elsewhere. */
  readonly demoAccounts: readonly {
    readonly name: string;
    readonly fullName: string;
    readonly roles: readonly Role[];
    readonly password: string;
  }[];
}
