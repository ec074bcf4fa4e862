import { useState } from "react";
import { PartEditor } from "../../kit/PartEditor";

/** Where another product is added to a set of builds. */
export function AddBuild({ words, onAdd }: { words: string; onAdd: (part: string) => void }) {
  const [adding, setAdding] = useState(false);
  return (
    <div className="relative h-8 w-[190px]">
      {adding ? (
        <PartEditor
          start=""
          fresh
          known
          onKeep={(text) => {
            setAdding(false);
            if (text.trim()) onAdd(text.trim().toUpperCase());
          }}
          onCancel={() => setAdding(false)}
        />
      ) : (
        <button
          type="button"
          className="h-8 w-full border border-dashed border-hair-2 px-2 text-left text-ink-2 hover:border-blue hover:text-blue"
          onClick={() => setAdding(true)}
        >
          {words}
        </button>
      )}
    </div>
  );
}
