import type { Finding } from '@anthemion/core';
import { useState } from 'react';
import { toast } from 'sonner';
import { api, problemOf } from '../../app/api.ts';
import { Button, Faded, Note, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { TextInput } from '../../parts/fields.tsx';

const EXAMPLE =
  'serial,model,address,port,location,account,hostkey\nTVL9001,TV-L48F,10.99.0.21,22,Mole hall row A,halls,SHA256:…';

/** Takes in a list of switches, every line or none. */
export function ImportDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const [csv, setCsv] = useState('');
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const [importNow, { isLoading }] = api.useImportSwitchesMutation();
  const save = async (): Promise<void> => {
    const result = await importNow(csv);
    if ('error' in result) {
      const p = problemOf(result.error);
      setFindings(p.findings);
      if (p.findings.length === 0) toast.error(p.detail);
      return;
    }
    toast.success(`${result.data.imported} switches imported`);
    setCsv('');
    setFindings([]);
    onClose();
  };
  return (
    <Dialog title="Import switches" isOpen={isOpen} onClose={onClose} width={640}>
      <Stack $gap={12}>
        <Faded>
          Paste the list, or choose a file. Columns: serial, model, address; port, location, account and hostkey may be
          left out. Nothing is imported unless every line is sound. Without a host key, the one it shows first waits for
          your yes.
        </Faded>
        <input
          type="file"
          accept=".csv,text/csv"
          aria-label="CSV file"
          onChange={(e) => void e.target.files?.[0]?.text().then(setCsv)}
        />
        <TextInput
          label="CSV"
          value={csv}
          onChange={setCsv}
          lines={9}
          placeholder={EXAMPLE}
          {...(findings.length > 0
            ? {
                error: `${findings.length} ${findings.length === 1 ? 'line is' : 'lines are'} not sound; nothing was imported.`,
              }
            : {})}
        />
        {findings.slice(0, 8).map((f) => (
          <Note key={f.message} $tone="bad">
            {f.message} {f.cure}
          </Note>
        ))}
        <Row>
          <Button $kind="main" onPress={() => void save()} isDisabled={isLoading || csv.trim() === ''}>
            Import
          </Button>
          <Button onPress={onClose}>Cancel</Button>
        </Row>
      </Stack>
    </Dialog>
  );
}
