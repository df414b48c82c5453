import type { EventMessage } from '@anthemion/contract';
import { EventEmitter } from 'node:events';

/** Tells everybody who listens what changed. It carries names, not contents: who is told asks again. */
export class Events {
  private readonly emitter = new EventEmitter().setMaxListeners(0);

  /** `fabric` is the fabric of what changed, where its id does not say that itself. */
  tell(topic: EventMessage['topic'], id?: string, fabric?: string, version?: number): void {
    this.emitter.emit('message', {
      topic,
      ...(id === undefined ? {} : { id }),
      ...(fabric === undefined ? {} : { fabric }),
      ...(version === undefined ? {} : { version }),
    } satisfies EventMessage);
  }

  /** Calls back for every message; the result unsubscribes. */
  listen(hear: (message: EventMessage) => void): () => void {
    this.emitter.on('message', hear);
    return () => this.emitter.off('message', hear);
  }
}
