import { DropdownMenu } from "radix-ui";
import { useRef, useState } from "react";

import { csvOf, pngOf, shippedFonts, svgOf, type Table } from "../../lib/graph-file";
import { saveAsFile } from "../../lib/save-file";

const ITEM =
  "flex min-h-12 cursor-pointer items-center px-4 outline-none data-highlighted:bg-ink data-highlighted:text-on-ink";

/** A graph that can be kept: as a picture, as a drawing, or as the numbers behind it. */
export function Keepable({
  name,
  table,
  empty = false,
  children,
}: {
  name: string;
  table: () => Table;
  /** There is nothing on it yet: no menu. */
  empty?: boolean;
  children: React.ReactNode;
}) {
  const graph = useRef<HTMLDivElement>(null);
  const [failed, setFailed] = useState(false);
  const file = name.toLowerCase().replaceAll(/[^a-z0-9]+/g, "-");
  const keep = (ending: "png" | "svg" | "csv") => {
    setFailed(false);
    made(ending).then(
      (parts) => {
        saveAsFile(new File([parts], `${file}.${ending}`, { type: parts.type }));
      },
      () => {
        setFailed(true);
      },
    );
  };
  const made = async (ending: "png" | "svg" | "csv"): Promise<Blob> => {
    if (ending === "csv") return new Blob([csvOf(table())], { type: "text/csv" });
    const drawn = graph.current;
    if (!drawn) throw new Error("There is no graph to keep.");
    const svg = svgOf(drawn, await shippedFonts());
    if (ending === "svg") return new Blob([svg], { type: "image/svg+xml" });
    return pngOf(svg);
  };
  return (
    <div>
      <div ref={graph}>{children}</div>
      {empty ? null : (
        <DropdownMenu.Root modal={false}>
          <DropdownMenu.Trigger className="inline-flex min-h-12 items-center text-sm underline underline-offset-4">
            Keep: {name.toLowerCase()}
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="start" className="z-20 border-2 border-ink bg-porcelain">
              <DropdownMenu.Item
                className={ITEM}
                onSelect={() => {
                  keep("png");
                }}
              >
                As a picture (PNG)
              </DropdownMenu.Item>
              <DropdownMenu.Item
                className={ITEM}
                onSelect={() => {
                  keep("svg");
                }}
              >
                As a drawing (SVG)
              </DropdownMenu.Item>
              <DropdownMenu.Item
                className={ITEM}
                onSelect={() => {
                  keep("csv");
                }}
              >
                Its numbers (CSV)
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
      {failed ? <p role="alert">It could not be kept: the numbers can be, all the same.</p> : null}
    </div>
  );
}
