import { type RefObject, useLayoutEffect, useRef, useState } from "react";

/** How wide a box is on the screen, in px, less what its edges take: drawings are drawn at that size, so that their words stay legible. */
export function useWidth<T extends HTMLElement>(first: number, edges = 0): [RefObject<T | null>, number] {
  const box = useRef<T>(null);
  const [width, setWidth] = useState(first);
  useLayoutEffect(() => {
    const el = box.current;
    if (!el) return;
    const look = () => setWidth(el.clientWidth - edges);
    look();
    const watch = new ResizeObserver(look);
    watch.observe(el);
    return () => watch.disconnect();
  }, [edges]);
  return [box, width];
}
