/** What a command ended with. */
export interface CommandResult {
  readonly code: number;
  readonly stdout: string;
  readonly stderr: string;
}

/** An open line to a switch: how a driver's words get there. Every method may throw SwitchTrouble. */
export interface Transport {
  /** Runs a command and waits for its end. */
  exec(command: string): Promise<CommandResult>;
  /** A file's text, or null when it is not there. */
  get(path: string): Promise<string | null>;
  put(path: string, text: string): Promise<void>;
  /** Makes a folder; one that is there is fine. */
  makeFolder(path: string): Promise<void>;
  /** Size and time of a file, as one word. */
  stampOf(path: string): Promise<string>;
  /** Calls back once when the line is gone, whoever ended it. */
  onGone(hear: () => void): void;
  close(): void;
}
