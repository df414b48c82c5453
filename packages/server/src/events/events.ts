import type { EventMessage } from '@anthemion/contract';
import { EventEmitter } from 'node:events';

/** Tells everybody who listens what changed. It carries names, not contents: who is told asks again. */
export class Events {
  private readonly emitter = new EventEmitter().setMaxListeners(0);

  tell(topic: EventMessage['topic'], id?: string): void {
    this.emitter.emit('message', id === undefined ? { topic } : { topic, id });
  }

  /** Calls back for every message; the result unsubscribes. */
  listen(hear: (message: EventMessage) => void): () => void {
    this.emitter.on('message', hear);
    return () => this.emitter.off('message', hear);
  }
}
