import { Link } from "react-router";

import { useCatalogue } from "../../api/knowledge";
import { useStock } from "../../api/shop";
import { hoursRun, words } from "../../lib/format";
import { money } from "../../lib/money";
import { Fetching } from "../../ui/fetching";

/** Machines without a customer, each with its grade, and the used parts on the shelf. */
export function Stock() {
  const stock = useStock();
  const catalogue = useCatalogue();
  const layout = (code: string | null) =>
    catalogue.data?.layouts.find((l) => l.code === code)?.name ?? "layout not known";
  return (
    <main className="flex flex-col gap-8 pt-6">
      <header>
        <h1 className="text-3xl sm:text-4xl">Machines of our own</h1>
        <p className="max-w-prose pt-2">
          Taken in without a customer. Open a job and say at Story whose it is: it is looked over, graded, and Cost says
          what may be put into it.
        </p>
      </header>
      {stock.data ? null : <Fetching what="what the shop has" failed={stock.isError} />}
      {stock.data?.machines.length === 0 ? <p className="sheet p-6">None at present.</p> : null}
      <ul className="grid gap-3 md:grid-cols-2" aria-label="Machines">
        {stock.data?.machines.map(({ job, grade, why, fetches, paid }) => (
          <li key={job.id}>
            <Link to={`/jobs/${job.id}/cost`} className="sheet flex min-h-12 gap-4 px-4 py-3 hover:border-ink">
              <Grade code={grade} />
              <span>
                <span className="block font-bold">{job.place || "No place told"}</span>
                <span className="block text-sm text-ink-soft">
                  {layout(job.layout)}, fetches <span className="font-mono">{money(fetches, true)}</span> as it stands,
                  paid <span className="font-mono">{money(paid, true)}</span>
                  {job.closed ? `, ${words(job.closed)}` : ""}
                </span>
                {why.length > 0 ? <span className="block text-sm">{why.join("; ")}</span> : null}
              </span>
            </Link>
          </li>
        ))}
      </ul>
      <section aria-label="Used parts">
        <h2 className="pb-2 text-2xl">On the shelf</h2>
        {stock.data?.parts.length === 0 ? (
          <p>Nothing yet. What is taken off a machine that is scrapped is kept at its Cost station.</p>
        ) : null}
        <ul>
          {stock.data?.parts.map((part) => (
            <li key={part.entry} className="flex flex-wrap gap-x-4 border-b border-line py-2">
              <span className="font-bold">{part.name}</span>
              <span>
                {[words(part.condition), hoursRun(part.hours), part.shelf].filter((t) => t !== "").join(", ")}
              </span>
              <Link className="ml-auto underline underline-offset-4" to={`/jobs/${part.job}`}>
                from {part.place}, {layout(part.layout)}
              </Link>
            </li>
          ))}
        </ul>
      </section>
    </main>
  );
}

/** The grade as a tag with one notch less for each step down. */
function Grade({ code }: { code: string }) {
  const said = code === "parts" ? "for its parts" : `grade ${code}`;
  return (
    <svg viewBox="0 0 44 44" className="w-11 shrink-0" role="img" aria-label={said}>
      <path d="M2 10 L12 2 H42 V42 H12 L2 34 Z" fill="var(--porcelain)" stroke="var(--ink)" strokeWidth="3" />
      <circle cx="10" cy="22" r="3" fill="var(--ink)" />
      <text
        x="28"
        y={code === "parts" ? 26 : 30}
        textAnchor="middle"
        className="fill-ink font-bold"
        fontSize={code === "parts" ? 9 : 22}
      >
        {code === "parts" ? "parts" : code}
      </text>
    </svg>
  );
}
