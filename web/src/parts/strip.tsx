const looks: Record<string, { height: number; fill: string }> = {
  s: { height: 5, fill: "var(--quiet)" },
  i: { height: 3, fill: "var(--quiet)" },
  u: { height: 5, fill: "var(--quiet)" },
  f: { height: 7, fill: "var(--fragile)" },
  b: { height: 11, fill: "var(--broken)" },
};

/** A page as a row of fine strokes, one a reference in reading order: quiet where it lands, tall where it does not. */
export function Strip({ states }: { states: string }) {
  const shown = [...states];
  return (
    <svg width={shown.length * 4} height="11" className="block max-w-full" aria-hidden="true">
      {shown.map((s, i) => {
        const look = looks[s];
        if (!look) return null;
        // biome-ignore lint/suspicious/noArrayIndexKey: a stroke is its place
        return <rect key={i} x={i * 4} y={11 - look.height} width="2" height={look.height} fill={look.fill} />;
      })}
    </svg>
  );
}
