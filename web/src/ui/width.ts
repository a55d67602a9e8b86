import { useEffect, useState } from "react";

/** The width of an element in pixels, followed as it changes. */
export function useWidth(start: number): [(node: HTMLElement | null) => void, number] {
  const [node, setNode] = useState<HTMLElement | null>(null);
  const [width, setWidth] = useState(start);
  useEffect(() => {
    if (!node) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.floor(entry.contentRect.width)));
    watch.observe(node);
    return () => watch.disconnect();
  }, [node]);
  return [setNode, width];
}
