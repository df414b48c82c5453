/** One answer in which model and daemons differ. */
export interface Difference {
  readonly host: string;
  readonly about: string;
  readonly model: string;
  readonly daemon: string;
}

/** How many answers of each kind were compared; `unsure`: those of which the model says that it does not know. */
export type Compared = Readonly<
  Record<
    | 'sessions'
    | 'adjacencies'
    | 'routes'
    | 'vteps'
    | 'evpnRoutes'
    | 'vrfRoutes'
    | 'ipv6Routes'
    | 'pings'
    | 'ipv6Pings'
    | 'calls'
    | 'largePings'
    | 'counters'
    | 'unsure',
    number
  >
>;

/** Where answers are counted and differences noted. */
export interface Tally {
  readonly count: Record<keyof Compared, number>;
  readonly differ: (host: string, about: string, model: string, daemon: string) => void;
  /** Is the model not sure of an answer? Then it is counted as such. */
  readonly isUnsure: (answer: { readonly unsure: string | null }) => boolean;
}
