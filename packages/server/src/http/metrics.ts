import { statfs } from 'node:fs/promises';
import { collectDefaultMetrics, Counter, Gauge, Histogram, Registry } from 'prom-client';
import { RELEASE } from '../release.ts';
import type { House } from '../services/house.ts';
import { countsOf } from '../store/counts.ts';
import { storageTrouble, words } from '../trouble.ts';
import type { Health } from './health.ts';

/** With less than this left, the server says that it is not ready, while it still is: bytes. */
const LEAST_ROOM = 64 * 1_048_576;

/** What is counted of requests, and what is measured when somebody asks. */
export function measured(house: House, data: string): Health {
  const registry = new Registry();
  collectDefaultMetrics({ register: registry });
  const requests = new Counter({
    name: 'anthemion_http_requests_total',
    help: 'Answered requests of the API',
    labelNames: ['method', 'status'] as const,
    registers: [registry],
  });
  const seconds = new Histogram({
    name: 'anthemion_http_request_seconds',
    help: 'Time to answer a request of the API, without streams',
    labelNames: ['method'] as const,
    buckets: [0.01, 0.05, 0.2, 1, 5, 20],
    registers: [registry],
  });
  const gauge = (name: string, help: string): Gauge =>
    new Gauge({ name: `anthemion_${name}`, help, registers: [registry] });
  gauge('up', `1; release ${RELEASE}`).set(1);
  const kept = {
    fabrics: gauge('fabrics', 'Fabrics'),
    switches: gauge('switches', 'Known switches'),
    switchesInTrouble: gauge('switches_in_trouble', 'Switches whose last reading failed'),
    switchesWaiting: gauge('switches_waiting', 'Switches whose confirmed text is not what the live revision means'),
    hostKeysWaiting: gauge('host_keys_waiting', 'Switches that show a host key nobody has accepted'),
    rolloutsUnfinished: gauge('rollouts_unfinished', 'Rollouts that are not at their end'),
    rolloutsStopped: gauge('rollouts_stopped', 'Rollouts that stopped and wait for a person'),
    sessions: gauge('sessions', 'Sessions that have not ended'),
    auditEntries: gauge('audit_entries', 'Entries of the audit log'),
  };
  const room = gauge('disk_free_bytes', 'Room left on the disk of the data folder');
  const freeBytes = async (): Promise<number> => {
    const { bavail, bsize } = await statfs(data);
    return bavail * bsize;
  };
  return {
    count: (request, response, next) => {
      const began = process.hrtime.bigint();
      response.on('finish', () => {
        requests.inc({ method: request.method, status: String(response.statusCode) });
        if (!request.path.endsWith('/events'))
          seconds.observe({ method: request.method }, Number(process.hrtime.bigint() - began) / 1e9);
      });
      next();
    },
    trouble: async () => {
      try {
        await countsOf(house.db);
        const free = await freeBytes();
        return free < LEAST_ROOM ? `The disk has ${Math.floor(free / 1_048_576)} MB left; make room.` : null;
      } catch (error) {
        return storageTrouble(error)?.message ?? words(error);
      }
    },
    metrics: async () => {
      const counts = await countsOf(house.db);
      for (const [name, set] of Object.entries(kept)) set.set(counts[name as keyof typeof kept]);
      room.set(await freeBytes());
      return registry.metrics();
    },
  };
}
