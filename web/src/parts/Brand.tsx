/** The mark and the name, in a size in pixels. */
export function Brand({ size }: { size: number }) {
  return (
    <>
      <svg width={size} height={size} viewBox="0 0 20 20" aria-hidden="true">
        <circle cx="10" cy="10" r="9" fill="none" stroke="var(--sun)" strokeWidth="1.5" />
        <path d="M10 1a9 9 0 0 1 0 18z" fill="var(--sun)" />
      </svg>
      <h1 className="wide font-[750]" style={{ fontSize: size * 0.82 }}>
        Westlight
      </h1>
    </>
  );
}
