import { problem, type Finding } from '../finding.ts';

/**
 * What corrects errors of a line: Reed-Solomon (IEEE 802.3 clauses 91, 108, 134), the older code of BASE-R (clause 74), or nothing. Both
 * ends of a cable need the same.
 */
export const FECS = ['rs', 'base-r', 'off'] as const;
export type Fec = (typeof FECS)[number];
/** What they are called. */
export const FEC_WORDS: Readonly<Record<Fec, string>> = { rs: 'RS-FEC', 'base-r': 'BASE-R FEC', off: 'no FEC' };

/** Speeds that a port can be told to run at, in Gb/s. */
export const SPEEDS = [1, 10, 25, 40, 50, 100, 200, 400] as const;
export const isSpeed = (n: number): boolean => (SPEEDS as readonly number[]).includes(n);
/** How people say one. */
export const speedWords = (speed: number): string => `${speed} Gb/s`;

/** How the line of a port is driven. What is not said is as the switch and what is plugged in have it. */
export interface Drive {
  /** Gb/s, where it is to run slower than it could. */
  readonly speed?: number;
  readonly fec?: Fec;
}
/** Of something what it says of that. */
export const driveOf = ({ speed, fec }: Drive): Drive => ({
  ...(speed === undefined ? {} : { speed }),
  ...(fec === undefined ? {} : { fec }),
});
/** What is said of it, in words; empty = nothing. */
export const driveWords = ({ speed, fec }: Drive): string[] => [
  ...(speed === undefined ? [] : [speedWords(speed)]),
  ...(fec === undefined ? [] : [FEC_WORDS[fec]]),
];

/** Speeds, in Gb/s, whose lines have a code at all that corrects so. */
const CODED: Readonly<Record<Fec, (speed: number) => boolean>> = {
  rs: (speed) => speed >= 25,
  'base-r': (speed) => speed === 10 || speed === 25 || speed === 40,
  off: () => true,
};

/**
 * What speaks against driving a port so.
 * @param speed what the port can run at by its model, in Gb/s
 * @param at where the words stand in an edit: `/port`
 */
export function checkDrive(said: Drive, port: string, speed: number, at: string): Finding[] {
  if (said.speed !== undefined && said.speed > speed)
    return [
      problem(
        'port-drive',
        `${at}/speed`,
        `${port} runs at ${speedWords(speed)} at most.`,
        `Choose ${SPEEDS.filter((s) => s <= speed).join(', ')}, or leave it empty.`,
      ),
    ];
  const runs = said.speed ?? speed;
  if (said.fec === undefined || CODED[said.fec](runs)) return [];
  const able = FECS.filter((f) => CODED[f](runs)).map((f) => FEC_WORDS[f]);
  return [
    problem(
      'port-drive',
      `${at}/fec`,
      `A line of ${speedWords(runs)} has no ${FEC_WORDS[said.fec]}.`,
      `Choose ${able.join(' or ')}, or leave it empty.`,
    ),
  ];
}

/** Why a cable gives no light, or may give none. */
export interface Darkness {
  readonly why: string;
  /** Both ends say it; else one does, and what the other has by itself nobody knows. */
  readonly certain: boolean;
  readonly field: keyof Drive;
}
type Driven = Drive & { readonly name: string };
const SAID = {
  speed: ({ speed }: Drive) => (speed === undefined ? null : `runs at ${speedWords(speed)}`),
  fec: ({ fec }: Drive) => (fec === undefined ? null : `has ${FEC_WORDS[fec]}`),
};
/** What both ends of a cable say of how they are driven, as its near end sees it; null = nothing speaks against it. */
export function darkness(near: Driven, far: Driven, farHost: string): Darkness | null {
  if (near.speed === far.speed && near.fec === far.fec) return null;
  const ofFar = `${far.name} of ${farHost}`;
  const all = (['speed', 'fec'] as const).flatMap((field): Darkness[] => {
    if (near[field] === far[field]) return [];
    const [here, there] = [SAID[field](near), SAID[field](far)];
    if (here !== null && there !== null)
      return [{ why: `${near.name} ${here}, ${ofFar} ${there}`, certain: true, field }];
    const why =
      here === null
        ? `${ofFar} ${there}, ${near.name} is told nothing`
        : `${near.name} ${here}, ${ofFar} is told nothing`;
    return [{ why, certain: false, field }];
  });
  return all.find((d) => d.certain) ?? all[0] ?? null;
}
