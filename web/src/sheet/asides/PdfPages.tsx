import { useEffect, useRef, useState } from "react";

const MOST_PAGES = 30;

/** The pages of a PDF, drawn in place. The reader is fetched from this server when the first one is shown. */
export function PdfPages({ address, name }: { address: string; name: string }) {
  const box = useRef<HTMLDivElement>(null);
  const [said, setSaid] = useState("Reading …");
  useEffect(() => {
    let gone = false;
    const show = async () => {
      const [pdf, worker] = await Promise.all([
        import("pdfjs-dist"),
        import("pdfjs-dist/build/pdf.worker.min.mjs?url"),
      ]);
      pdf.GlobalWorkerOptions.workerSrc = worker.default;
      const task = pdf.getDocument({ url: address, isEvalSupported: false });
      const document_ = await task.promise;
      for (let n = 1; n <= Math.min(document_.numPages, MOST_PAGES); n++) {
        const page = await document_.getPage(n);
        if (gone || !box.current) break;
        const width = box.current.clientWidth;
        const scale = (width / page.getViewport({ scale: 1 }).width) * window.devicePixelRatio;
        const viewport = page.getViewport({ scale });
        const canvas = document.createElement("canvas");
        canvas.width = viewport.width;
        canvas.height = viewport.height;
        canvas.style.width = "100%";
        canvas.setAttribute("role", "img");
        canvas.setAttribute("aria-label", `${name}, page ${n} of ${document_.numPages}`);
        box.current.append(canvas);
        await page.render({ canvas, viewport }).promise;
      }
      const left = document_.numPages - MOST_PAGES;
      if (!gone) setSaid(left > 0 ? `and ${left} more pages` : "");
      await task.destroy();
    };
    show().catch(() => !gone && setSaid(`${name} cannot be shown; it may be damaged or locked.`));
    return () => {
      gone = true;
      box.current?.replaceChildren();
    };
  }, [address, name]);
  return (
    <div>
      <div ref={box} className="flex flex-col gap-1 border border-hair" />
      {said && <p className="text-[12px] text-ink-3">{said}</p>}
      <a href={address} className="text-[12px] text-blue hover:underline">
        download
      </a>
    </div>
  );
}
