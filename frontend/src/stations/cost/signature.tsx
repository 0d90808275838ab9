import { useRef } from "react";

const WIDTH = 600;
const HEIGHT = 200;

/** A field to sign in with a finger, a pen or a mouse; the signature is a path. */
export function Signature({ value, onChange }: { value: string; onChange: (path: string) => void }) {
  const drawing = useRef(false);
  const at = (event: React.PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * WIDTH;
    const y = ((event.clientY - box.top) / box.height) * HEIGHT;
    return `${x.toFixed(0)} ${y.toFixed(0)}`;
  };
  return (
    <div>
      <svg
        viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`}
        className="w-full max-w-xl touch-none border-2 border-ink bg-porcelain"
        role="img"
        aria-label={value === "" ? "Signature: empty" : "Signature: signed"}
        onPointerDown={(event) => {
          drawing.current = true;
          event.currentTarget.setPointerCapture(event.pointerId);
          onChange(`${value}M${at(event)}`);
        }}
        onPointerMove={(event) => {
          if (drawing.current) onChange(`${value}L${at(event)}`);
        }}
        onPointerUp={() => {
          drawing.current = false;
        }}
      >
        <line x1="20" x2={WIDTH - 20} y1={HEIGHT - 40} y2={HEIGHT - 40} stroke="var(--line)" strokeWidth="2" />
        <path d={value} fill="none" stroke="var(--ink)" strokeWidth="4" strokeLinecap="round" strokeLinejoin="round" />
      </svg>
      {value === "" ? null : (
        <button
          type="button"
          className="min-h-12 underline underline-offset-4"
          onClick={() => {
            onChange("");
          }}
        >
          sign again
        </button>
      )}
    </div>
  );
}
