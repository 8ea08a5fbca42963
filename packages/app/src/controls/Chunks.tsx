import { useEffect, useRef, useState, type ReactNode } from 'react';

interface ChunkProps {
  /** What it holds is wanted although it is out of sight. */
  readonly wanted: boolean;
  /** Begins in sight. */
  readonly first: boolean;
  /** Height that it has as far as one knows, px. */
  readonly about: number;
  readonly children: () => ReactNode;
}

/** How far beyond the edge of what scrolls things are drawn already. */
const AHEAD = '400px';

/** A stretch of a long list that stands empty, as high as it was, while it is out of sight. */
function Chunk({ wanted, first, about, children }: ChunkProps) {
  const box = useRef<HTMLDivElement>(null);
  const [seen, setSeen] = useState(first);
  const height = useRef(about);
  useEffect(() => {
    const element = box.current!;
    const observer = new IntersectionObserver(
      ([entry]) => {
        const inSight = entry.isIntersecting || element.contains(document.activeElement);
        if (!inSight) height.current = entry.boundingClientRect.height;
        setSeen(inSight);
      },
      { rootMargin: AHEAD },
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const drawn = seen || wanted;
  return (
    <div ref={box} style={drawn ? undefined : { height: height.current }}>
      {drawn && children()}
    </div>
  );
}

/** Rows of a chunk, and how many a list has at least to be drawn in chunks. */
const SIZE = 20;
const LONG = 40;

interface ChunksProps<T> {
  readonly items: readonly T[];
  /** Height of a row as far as one knows, px. */
  readonly row: number;
  /** Whether an item must be there although it is out of sight. */
  readonly wanted: (item: T) => boolean;
  readonly children: (item: T) => ReactNode;
}

/** A list of which a long one is drawn only where it is in sight. */
export function Chunks<T>({ items, row, wanted, children }: ChunksProps<T>): ReactNode {
  if (items.length < LONG) return items.map(children);
  const chunks = Array.from({ length: Math.ceil(items.length / SIZE) }, (_, i) =>
    items.slice(i * SIZE, (i + 1) * SIZE),
  );
  return chunks.map((chunk, i) => (
    <Chunk key={i} first={i < 2} about={row * chunk.length} wanted={chunk.some(wanted)}>
      {() => chunk.map(children)}
    </Chunk>
  ));
}
