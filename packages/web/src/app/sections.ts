/** The sections of the band, each with the letter that goes to it after `g`. */
export const SECTIONS = [
  { to: '/patterns', name: 'Patterns', key: 'p' },
  { to: '/pools', name: 'Pools', key: 'o' },
  { to: '/switches', name: 'Switches', key: 's' },
  { to: '/fabrics', name: 'Fabrics', key: 'f' },
  { to: '/changes', name: 'Changes', key: 'c' },
  { to: '/rollouts', name: 'Rollouts', key: 'r' },
] as const;
