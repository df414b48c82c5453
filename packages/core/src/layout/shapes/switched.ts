import type { Shape } from './shape.ts';
import { threeStages } from './threeStages.ts';

/** Cabled as three stages are; but nothing is routed, so nobody has an AS number to share. */
export const switched: Shape = (intent) => {
  const { seats, links } = threeStages(intent);
  return { seats: seats.map(({ asGroup: _, ...seat }) => seat), links };
};
