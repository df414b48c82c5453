/**
 * Has a worker close its connection after what it still does: a thread that is cut off inside SQLite may take the whole
 * process with it.
 */
export const END = 'end';
