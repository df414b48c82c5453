import type { AuditCheck } from '@anthemion/contract';
import type { House } from '../services/house.ts';
import { auditPage, auditRows, checkChain } from '../store/audit.ts';
import type { Handlers } from './routes.ts';

const ROWS_AT_ONCE = 1000;

/** The audit log: pages of it, the walk along its chain, and all of it as lines of JSON. */
export function auditHandlers({ db }: House): Handlers {
  return {
    'GET /api/audit': ({ page, query }) => {
      const { account, action, fabric, text, from, to } = query;
      return auditPage(db, page, { account, action, fabric, text, from, to });
    },
    'GET /api/audit/check': (): Promise<AuditCheck> => checkChain(db),
    'GET /api/audit/export': async ({ response }) => {
      response.type('application/x-ndjson').attachment('audit.ndjson');
      let after = 0;
      for (;;) {
        const rows = await auditRows(db, after, ROWS_AT_ONCE);
        if (rows.length === 0 || response.destroyed) break;
        // Held up by a slow reader: wait until it has taken what it was sent.
        if (!response.write(rows.map((r) => `${JSON.stringify(r)}\n`).join('')))
          await new Promise((go) => {
            response.once('drain', go);
            response.once('close', go);
          });
        after = rows.at(-1)!.n;
      }
      response.end();
    },
  };
}
