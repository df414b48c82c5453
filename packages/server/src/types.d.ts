/** cookie-session's part of the request: null signs out. */
declare namespace Express {
  interface Request {
    session?: { name?: string; at?: number } | null;
  }
}
