/** Dragging with a pointer: where it is, and that it was let go. */
import type { PointerEvent } from 'react';

export function drag(event: PointerEvent<Element>, move: (x: number, y: number) => void, end: () => void) {
  event.preventDefault();
  event.stopPropagation();
  const svg = (event.currentTarget as SVGElement).ownerSVGElement ?? event.currentTarget;
  const box = svg.getBoundingClientRect();
  const target = event.currentTarget;
  (target as unknown as HTMLElement).focus?.();
  const onMove = (e: globalThis.PointerEvent) => move(e.clientX - box.left, e.clientY - box.top);
  const onEnd = () => {
    window.removeEventListener('pointermove', onMove);
    window.removeEventListener('pointerup', onEnd);
    window.removeEventListener('pointercancel', onEnd);
    end();
  };
  window.addEventListener('pointermove', onMove);
  window.addEventListener('pointerup', onEnd);
  window.addEventListener('pointercancel', onEnd);
}
