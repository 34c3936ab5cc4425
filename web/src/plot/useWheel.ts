/** The wheel over an element, kept from scrolling the page: React's own handler may not prevent that. */
import { useEffect, useRef, type RefObject } from 'react';

export function useWheel(holder: RefObject<HTMLElement | null>, handle: (event: WheelEvent) => void) {
  const latest = useRef(handle);
  latest.current = handle;
  useEffect(() => {
    const box = holder.current;
    const onWheel = (event: WheelEvent) => latest.current(event);
    box?.addEventListener('wheel', onWheel, { passive: false });
    return () => box?.removeEventListener('wheel', onWheel);
  }, [holder]);
}
