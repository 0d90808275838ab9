import { type Act, ACT_WORDS, ActMark } from "./act-mark";

/** Places of a machine that a drawing can light; the codes are those of the steps. */
const FRONT: Record<string, React.ReactNode> = {
  lid: <rect x="52" y="26" width="196" height="12" />,
  console: <rect x="52" y="40" width="40" height="30" />,
  drawer: <rect x="44" y="46" width="26" height="18" />,
  front: <rect x="46" y="40" width="12" height="226" />,
  rear: <rect x="242" y="40" width="12" height="226" />,
  plinth: <rect x="46" y="252" width="46" height="20" />,
  rim: <path d="M84 92 h16 v16 h-16 Z M84 208 h16 v16 h-16 Z" />,
  door: <path d="M46 112 C22 120 22 196 46 204 Z" />,
  tub: <path d="M84 92 H196 C222 92 222 224 196 224 H84 C72 200 72 116 84 92 Z" />,
  drum: <path d="M92 106 H188 C204 106 204 210 188 210 H92 C82 190 82 126 92 106 Z" />,
  hub: <rect x="198" y="144" width="34" height="28" />,
  corners: <path d="M104 40 L110 92 M178 40 L172 92" className="mark-line" />,
  under: <path d="M112 224 L100 272 M176 224 L188 272 M206 236 h30 v26 h-30 Z" className="mark-line" />,
  pump: <circle cx="104" cy="252" r="15" />,
  feet: <path d="M62 272 v12 M236 272 v12" className="mark-line" />,
  taps: <path d="M278 60 h18 v14 h-18 Z M278 84 h18 v14 h-18 Z" />,
  plug: <path d="M276 224 h18 v18 h-18 Z" />,
};

const TOP: Record<string, React.ReactNode> = {
  lid: <rect x="58" y="62" width="168" height="10" />,
  console: <path d="M212 62 L226 20 H254 V62 Z" />,
  front: <rect x="46" y="72" width="12" height="200" />,
  rear: <rect x="242" y="72" width="12" height="200" />,
  rim: <path d="M86 92 h20 v10 h-20 Z M188 92 h20 v10 h-20 Z" />,
  tub: <path d="M84 98 H210 V222 Q210 230 200 230 H94 Q84 230 84 222 Z" />,
  drum: <path d="M98 108 H196 V212 H98 Z" />,
  centre: <path d="M138 122 h18 l8 74 h-34 Z" />,
  hub: <rect x="130" y="200" width="34" height="26" />,
  corners: <path d="M66 76 L88 206 M228 76 L206 206" className="mark-line" />,
  under: <path d="M124 232 h46 v24 h-46 Z M180 236 h36 v26 h-36 Z" />,
  pump: <circle cx="226" cy="254" r="12" />,
  door: <rect x="58" y="62" width="168" height="10" />,
  plinth: <rect x="46" y="258" width="40" height="14" />,
  feet: <path d="M62 272 v12 M236 272 v12" className="mark-line" />,
  taps: <path d="M278 92 h18 v14 h-18 Z M278 116 h18 v14 h-18 Z" />,
  plug: <path d="M276 224 h18 v18 h-18 Z" />,
};

/** What turns the drum, which is where layouts differ. */
const DRIVES: Record<string, string> = {
  front_belt: "M234 112 h8 v92 h-8 Z M206 236 h30 v26 h-30 Z M238 112 V236 M242 204 V262",
  front_direct: "M226 108 h14 v100 h-14 Z M232 108 V208",
  top_coupler: "M124 232 h46 v30 h-46 Z M74 236 h34 v24 h-34 Z M108 248 h6 M118 248 h6 M114 240 v16 M118 240 v16",
  top_shifter: "M124 232 h46 v22 h-46 Z M180 236 h36 v22 h-36 Z M134 258 h76 M134 264 h76 M116 222 h14 v10 h-14 Z",
  top_splined: "M98 232 h98 v12 h-98 Z M98 238 H196 M142 212 v20 M152 212 v20",
  top_pulsator: "M132 232 h30 v18 h-30 Z M180 234 h34 v24 h-34 Z M138 258 h70 M138 264 h70",
};

const NAMES: Record<string, string> = {
  whole: "the whole machine",
  bench: "the bench",
  rim: "the tub’s rim",
  centre: "the middle of the basket",
  corners: "the corners, above",
  under: "below the tub",
  hub: "the hub",
};

/** A section through the machine from its side, front at the left, with one place lit. */
export function MachineDrawing({
  layout,
  place,
  tipped,
  act,
}: {
  layout: string;
  place: string;
  tipped?: string | null;
  /** A movement to draw there. */
  act?: Act;
}) {
  const parts = layout.startsWith("front") ? FRONT : TOP;
  const turn = tipped === "leaned" ? 14 : tipped === "on_back" ? 90 : 0;
  const name = NAMES[place] ?? `the ${place}`;
  return (
    <svg
      viewBox="0 0 310 300"
      className="w-full max-w-80"
      role="img"
      aria-label={`Section from the side, front at the left: ${name} is lit${act ? `, ${ACT_WORDS[act]}` : ""}`}
    >
      <g transform={`rotate(${String(turn)} 150 160)`}>
        <path
          d={layout.startsWith("front") ? "M50 28 H250 V272 H50 Z" : "M50 62 H226 L236 20 H254 V272 H50 Z"}
          fill={place === "whole" ? "var(--marigold)" : "var(--porcelain)"}
          stroke="var(--ink)"
          strokeWidth="3"
        />
        {Object.entries(parts).map(([code, shape]) => (
          <g
            key={code}
            fill={code === "under" || code === "corners" || code === "feet" ? "none" : "var(--porcelain)"}
            stroke="var(--ink-soft)"
            strokeWidth="1.5"
            fillOpacity={code === "tub" || code === "drum" ? 0.3 : 1}
          >
            {shape}
          </g>
        ))}
        <path d={DRIVES[layout] ?? ""} fill="var(--porcelain)" stroke="var(--ink-soft)" strokeWidth="1.5" />
        {parts[place] ? (
          <g
            fill="var(--marigold)"
            fillOpacity={place === "corners" || place === "feet" ? 0 : place === "tub" ? 0.45 : 0.85}
            stroke="var(--ink)"
            strokeWidth={place === "corners" || place === "feet" || place === "under" ? 6 : 3.5}
          >
            {parts[place]}
          </g>
        ) : null}
        {act ? <ActMark act={act} place={place} front={layout.startsWith("front")} /> : null}
      </g>
      <line x1="10" x2="300" y1="286" y2="286" stroke="var(--ink)" strokeWidth="2" />
      {place === "bench" ? (
        <text x="150" y="160" textAnchor="middle" fontSize="20" fill="var(--ink)" fontWeight="700">
          on the bench
        </text>
      ) : null}
    </svg>
  );
}
