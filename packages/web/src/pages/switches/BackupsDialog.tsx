import type { BackupAnswer, InventoryAnswer } from '@anthemion/contract';
import { DOCUMENT_NAMES } from '@anthemion/core';
import { skipToken } from '@reduxjs/toolkit/query';
import { Download } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { styled } from 'styled-components';
import { enc, problemOf } from '../../app/api.ts';
import { compareApi } from '../../app/compareApi.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { backupWords } from '../../parts/backupWords.ts';
import { Empty, Failure, Row, Waiting } from '../../parts/basics.tsx';
import { LinkButton } from '../../parts/LinkButton.tsx';
import { mono, token } from '../../parts/theme.ts';
import { dated } from '../../parts/times.ts';

const TextCompare = lazy(() => import('../../parts/TextCompare.tsx'));

/** Every text a switch was seen to run: read, compared and downloaded. */
export function BackupsDialog({
  s,
  isOpen,
  onClose,
}: {
  readonly s: InventoryAnswer;
  readonly isOpen: boolean;
  readonly onClose: () => void;
}) {
  const list = compareApi.useBackupsQuery(isOpen ? s.serial : skipToken);
  const [picked, pick] = useState<number | null>(null);
  const id = picked ?? list.currentData?.[0]?.id ?? null;
  const backup = list.currentData?.find((k) => k.id === id);
  return (
    <Dialog title={`Back-ups of ${s.host ?? s.serial}`} isOpen={isOpen} onClose={onClose} width={1040}>
      {list.isError ? (
        <Failure detail={problemOf(list.error).detail} onRetry={() => void list.refetch()} />
      ) : !list.currentData ? (
        <Waiting />
      ) : backup === undefined ? (
        <Empty title="None yet">
          What it runs is kept whenever it is read and has become another, and before anything is sent to it.
        </Empty>
      ) : (
        <Both>
          <ul aria-label="Back-ups">
            {list.currentData.map((k, i) => (
              <li key={k.id}>
                <button aria-pressed={k.id === id} onClick={() => pick(k.id)}>
                  <b>{dated(k.at)}</b>{' '}
                  <small>
                    {i === 0 && 'runs now, '}
                    {backupWords(k)}
                    {k.host !== '' && k.host !== s.host && `, as ${k.host} of ${k.fabric}`}
                  </small>
                </button>
              </li>
            ))}
          </ul>
          <Text key={backup.id} s={s} backup={backup} />
        </Both>
      )}
    </Dialog>
  );
}

function Text({ s, backup }: { readonly s: InventoryAnswer; readonly backup: BackupAnswer }) {
  const { currentData, isError, error, refetch } = compareApi.useBackupQuery({ serial: s.serial, id: backup.id });
  const [wanted, setFile] = useState<string | null>(null);
  if (isError) return <Failure detail={problemOf(error).detail} onRetry={() => void refetch()} />;
  if (!currentData) return <Waiting />;
  const files = DOCUMENT_NAMES.filter((f) => f in currentData.files);
  const file = wanted ?? files[0] ?? '';
  const between = `/fabrics/${backup.fabric}/between?of=${enc(backup.seat)}`;
  return (
    <div>
      <Row>
        <span className="files">
          {files.map((f) => (
            <button key={f} aria-pressed={file === f} onClick={() => setFile(f)}>
              {f}
            </button>
          ))}
        </span>
        <span style={{ flex: 1 }} />
        {backup.fabric !== '' && (
          <LinkButton to={`${between}&left=kept-${backup.id}&right=running`}>Compare with what runs</LinkButton>
        )}
        <LinkButton
          reloadDocument
          to={`/api/switches/${enc(s.serial)}/backups/${backup.id}/files.zip`}
          aria-label="Download"
        >
          <Download size={14} aria-hidden /> Download
        </LinkButton>
      </Row>
      <div className="text">
        <Suspense fallback={<Waiting what="Opening the text" />}>
          <TextCompare
            before=""
            after={currentData.files[file] ?? ''}
            origins={NONE}
            sideBySide={false}
            changed={false}
            onLine={() => undefined}
          />
        </Suspense>
      </div>
    </div>
  );
}
const NONE: readonly never[] = [];

const Both = styled.div`
  display: grid;
  grid-template-columns: 262px minmax(0, 1fr);
  gap: 16px;
  height: 62vh;
  > ul {
    overflow: auto;
    border-right: 1px solid ${token('rule')};
  }
  > div {
    display: flex;
    flex-direction: column;
    gap: 8px;
    min-height: 0;
  }
  .text {
    flex: 1;
    min-height: 0;
    display: flex;
    border: 1px solid ${token('rule-soft')};
  }
  ul button,
  .files button {
    all: unset;
    box-sizing: border-box;
    cursor: pointer;
    border-radius: 3px;
  }
  ul button {
    display: block;
    width: 100%;
    padding: 5px 8px;
  }
  ul b {
    display: block;
    font: 600 12px ${mono};
  }
  small {
    color: ${token('faded')};
    font-size: 12px;
  }
  .files button {
    padding: 1px 8px;
    font-size: 13px;
    color: ${token('faded')};
    border: 1px solid transparent;
  }
  .files button[aria-pressed='true'] {
    color: ${token('ink')};
    font-weight: 600;
    border-color: ${token('rule')};
  }
  ul button[aria-pressed='true'] {
    background: ${token('verdigris-wash')};
  }
  ul button[aria-pressed='true'] small {
    color: ${token('ink')};
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
    outline-offset: -2px;
  }
`;
