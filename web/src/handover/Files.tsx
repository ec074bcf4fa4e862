/** The change sheet as files. */
export function Files({ id }: { id: number }) {
  return (
    <>
      {["pdf", "xlsx"].map((shape) => (
        <a
          key={shape}
          href={`/api/handover/${id}/changes.${shape}`}
          className="inline-flex min-h-[30px] items-center rounded-[3px] border border-hair-2 bg-paper px-3 hover:border-blue"
        >
          {shape.toUpperCase()}
        </a>
      ))}
    </>
  );
}
