/** Words of a figure that may be longer than their room: cut at it with a mark, whole on hover and to a screen reader. */
export function Clipped({ words, most }: { words: string; most: number }) {
  if (words.length <= most) return <>{words}</>;
  return (
    <tspan>
      <title>{words}</title>
      {`${words.slice(0, most - 1).trimEnd()}…`}
    </tspan>
  );
}
