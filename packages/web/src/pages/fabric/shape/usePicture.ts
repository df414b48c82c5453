import { select } from 'd3-selection';
import { zoom, zoomIdentity, type ZoomTransform } from 'd3-zoom';
import { useEffect, useRef, useState, type RefObject } from 'react';

/** The size of a frame, followed as it changes; whole pixels. */
export function useSize(frame: RefObject<HTMLElement | null>): { readonly width: number; readonly height: number } {
  const [size, setSize] = useState({ width: 740, height: 560 });
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      if (!entry) return;
      const next = {
        width: Math.round(Math.max(360, entry.contentRect.width)),
        height: Math.round(Math.max(330, entry.contentRect.height)),
      };
      setSize((was) => (was.width === next.width && was.height === next.height ? was : next));
    });
    if (frame.current) watch.observe(frame.current);
    return () => watch.disconnect();
  }, [frame]);
  return size;
}

/** After so long without a gesture the picture is drawn anew at its scale, milliseconds. */
const REST_MS = 140;

/**
 * Zoom and pan of a picture. While a gesture lasts the layer is only moved (that costs next to nothing, whatever is drawn
 * on it); when it rests, `settled` is the transform to draw at.
 */
export function useZoom(frame: RefObject<HTMLElement | null>, layer: RefObject<HTMLElement | null>): ZoomTransform {
  const [settled, setSettled] = useState(zoomIdentity);
  const drawn = useRef(zoomIdentity);
  useEffect(() => {
    const node = frame.current;
    if (!node) return;
    let rest: ReturnType<typeof setTimeout> | undefined;
    const behaviour = zoom<HTMLElement, unknown>()
      .scaleExtent([1, 14])
      .on('zoom', ({ transform }: { readonly transform: ZoomTransform }) => {
        // From where it was drawn to where it shall be.
        const k = transform.k / drawn.current.k;
        const [x, y] = [transform.x - drawn.current.x * k, transform.y - drawn.current.y * k];
        if (layer.current) layer.current.style.transform = `translate(${x}px, ${y}px) scale(${k})`;
        clearTimeout(rest);
        rest = setTimeout(() => setSettled(transform), REST_MS);
      });
    const selection = select(node);
    selection.call(behaviour).on('dblclick.zoom', null);
    return () => {
      clearTimeout(rest);
      selection.on('.zoom', null);
    };
  }, [frame, layer]);
  useEffect(() => {
    drawn.current = settled;
    if (layer.current) layer.current.style.transform = '';
  }, [settled, layer]);
  return settled;
}
