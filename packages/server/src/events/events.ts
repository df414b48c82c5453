import { EVENT_TOPICS, type EventMessage } from '@anthemion/contract';
import { EventEmitter } from 'node:events';

/** So many messages are kept for who asked for something just before they were told. */
const KEPT = 1000;

/** Tells everybody who listens what changed. It carries names, not contents: who is told asks again. */
export class Events {
  private readonly emitter = new EventEmitter().setMaxListeners(0);
  private readonly kept: EventMessage[] = [];
  private number: number;

  /** @param first a number that no run of the server before this one has come to: milliseconds since 1970 do */
  constructor(first = Date.now()) {
    this.number = first;
  }

  /** Number of the last message. */
  get last(): number {
    return this.number;
  }

  /** `fabric` is the fabric of what changed, where its id does not say that itself. */
  tell(topic: EventMessage['topic'], id?: string, fabric?: string, version?: number): void {
    const message: EventMessage = {
      topic,
      ...(id === undefined ? {} : { id }),
      ...(fabric === undefined ? {} : { fabric }),
      ...(version === undefined ? {} : { version }),
    };
    this.number++;
    this.kept.push(message);
    if (this.kept.length > KEPT) this.kept.shift();
    this.emitter.emit('message', message);
  }

  /** What was told after a message; one of each topic, about everything, where that is not kept any more. */
  after(number: number): readonly EventMessage[] {
    const missed = this.number - number;
    return missed >= 0 && missed <= this.kept.length
      ? this.kept.slice(this.kept.length - missed)
      : EVENT_TOPICS.map((topic) => ({ topic }));
  }

  /** Calls back for every message; the result unsubscribes. */
  listen(hear: (message: EventMessage) => void): () => void {
    this.emitter.on('message', hear);
    return () => this.emitter.off('message', hear);
  }
}
