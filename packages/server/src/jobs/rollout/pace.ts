/** How long things are waited for, milliseconds. */
export interface Pace {
  readonly poll: number;
  /** Kept back from the undo timer for the confirmation itself. */
  readonly confirmMargin: number;
  /** How long a switch is asked beyond its timer. */
  readonly beyond: number;
}
export const PACE: Pace = { poll: 400, confirmMargin: 3000, beyond: 8000 };
