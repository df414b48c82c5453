import type { Origin } from '@anthemion/core';
import { foldGutter, StreamLanguage } from '@codemirror/language';
import { MergeView, unifiedMergeView } from '@codemirror/merge';
import { search, searchKeymap } from '@codemirror/search';
import { EditorState, type Extension } from '@codemirror/state';
import { EditorView, gutter, GutterMarker, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { useEffect, useRef } from 'react';
import { styled } from 'styled-components';
import { mono, sans, token } from './theme.ts';

class OriginMark extends GutterMarker {
  readonly text: string;
  constructor(text: string) {
    super();
    this.text = text;
  }
  override eq(other: OriginMark): boolean {
    return this.text === other.text;
  }
  override toDOM(): Node {
    const span = document.createElement('span');
    span.textContent = this.text;
    return span;
  }
}

/** Comments and keywords of switch configuration, lightly. */
const config = StreamLanguage.define({
  token: (stream) => {
    if (stream.sol() && stream.match(/^\s*[#!].*/)) return 'comment';
    if (stream.sol() && stream.match(/^(auto|iface|router|vrf|route-map|ip|bfd|interface|frr|hostname)\b/))
      return 'keyword';
    stream.next();
    return null;
  },
});

const originGutter = (origins: readonly (Origin | null)[]): Extension =>
  gutter({
    class: 'cm-origins',
    side: 'after',
    lineMarker: (view, block) => {
      const o = origins[view.state.doc.lineAt(block.from).number - 1];
      if (!o) return null;
      return new OriginMark(o.edit ? `edit ${o.edit.number}` : o.value?.pool ? o.value.pool : o.label);
    },
  });

interface Props {
  readonly before: string;
  readonly after: string;
  readonly origins: readonly (Origin | null)[];
  readonly sideBySide: boolean;
  /** There is something to compare with. */
  readonly changed: boolean;
  readonly onLine: (line: number) => void;
}

/** Read-only text with line numbers, search, folding of what is the same, and the origin of each line. */
export default function TextCompare({ before, after, origins, sideBySide, changed, onLine }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const tell = useRef(onLine);
  useEffect(() => {
    tell.current = onLine;
  });
  useEffect(() => {
    const parent = host.current;
    if (!parent) return;
    const common = (label: string): Extension[] => [
      lineNumbers(),
      foldGutter(),
      EditorState.readOnly.of(true),
      EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
      search({ top: true }),
      keymap.of(searchKeymap),
      highlightActiveLine(),
      config,
      EditorView.theme({ '&': { height: '100%' }, '.cm-scroller': { overflow: 'auto' } }),
    ];
    const meant: Extension[] = [
      ...common('Meant text'),
      // Side by side there is no room for them; the aside tells them all the same.
      ...(sideBySide ? [] : [originGutter(origins)]),
      EditorView.updateListener.of((u) => {
        if (u.selectionSet || u.focusChanged) tell.current(u.state.doc.lineAt(u.state.selection.main.head).number);
      }),
    ];
    const collapseUnchanged = { margin: 3, minSize: 6 };
    const identical = before === after;
    if (sideBySide && changed && !identical) {
      const view = new MergeView({
        a: { doc: before, extensions: common('Text before') },
        b: { doc: after, extensions: meant },
        parent,
        collapseUnchanged,
        gutter: true,
      });
      return () => view.destroy();
    }
    const view = new EditorView({
      doc: after,
      parent,
      extensions: [
        ...meant,
        ...(changed && !identical
          ? [unifiedMergeView({ original: before, mergeControls: false, collapseUnchanged })]
          : []),
      ],
    });
    return () => view.destroy();
  }, [before, after, origins, sideBySide, changed]);
  return (
    <Frame>
      {changed && before === after && <p>Both are the same, line for line.</p>}
      <div ref={host} />
    </Frame>
  );
}
const Frame = styled.div`
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  > p {
    font-size: 12.5px;
    color: ${token('faded')};
    padding: 6px 14px;
    border-bottom: 1px solid ${token('rule-soft')};
  }
  > div {
    flex: 1;
    min-height: 0;
    overflow: auto;
  }
  .cm-mergeView {
    height: 100%;
    overflow: auto;
  }
  .cm-editor {
    background: ${token('sheet')};
    color: ${token('ink')};
    font-size: 12px;
  }
  .cm-editor.cm-focused {
    outline: none;
  }
  .cm-scroller {
    font-family: ${mono};
    line-height: 20px;
  }
  .cm-gutters {
    background: ${token('sheet')};
    color: ${token('faded')};
    border: 0;
  }
  .cm-activeLine {
    background: ${token('verdigris-wash')};
  }
  .cm-origins span {
    font: 11px ${sans};
    color: ${token('faded')};
    padding: 0 6px;
    white-space: nowrap;
    max-width: 150px;
    overflow: hidden;
    text-overflow: ellipsis;
    display: inline-block;
  }
  &&& .cm-changedLine,
  &&& .cm-inlineChangedLine,
  &&& .cm-insertedLine {
    background: ${token('lapis-wash')};
  }
  &&& .cm-merge-a .cm-changedLine,
  &&& .cm-deletedChunk {
    background: ${token('madder-wash')};
  }
  &&& .cm-changedText,
  &&& .cm-deletedText,
  &&& ins,
  &&& del {
    background: none;
    text-decoration: none;
    font-weight: 600;
  }
  &&& .cm-changeGutter {
    width: 3px;
    padding: 0;
  }
  &&& .cm-changedLineGutter {
    background: ${token('lapis')};
  }
  &&& .cm-merge-a .cm-changedLineGutter {
    background: ${token('madder')};
  }
  &&& .cm-collapsedLines {
    background: ${token('paper')};
    color: ${token('faded')};
    border-block: 1px solid ${token('rule-soft')};
    font: 12px/20px ${sans};
    padding: 1px 12px;
  }
  &&& .cm-collapsedLines::before,
  &&& .cm-collapsedLines::after {
    content: none;
  }
  .cm-panels {
    background: ${token('paper')};
    color: ${token('ink')};
    border-color: ${token('rule')};
  }
`;
