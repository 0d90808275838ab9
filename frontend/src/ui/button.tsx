import { Link } from "react-router";

type Weight = "strong" | "plain" | "quiet";

const LOOK: Record<Weight, string> = {
  strong: "bg-ink text-on-ink border-ink",
  plain: "bg-porcelain text-ink border-ink",
  quiet: "bg-transparent text-ink border-transparent underline underline-offset-4",
};
const SHAPE =
  "inline-flex min-h-12 items-center justify-center gap-2 rounded-[2px_14px_2px_2px] border-2 px-5 font-bold disabled:opacity-50 disabled:cursor-not-allowed";

export function Button({
  weight = "plain",
  ...rest
}: React.ButtonHTMLAttributes<HTMLButtonElement> & { weight?: Weight; "data-knock"?: boolean }) {
  return <button type="button" {...rest} className={`${SHAPE} ${LOOK[weight]} ${rest.className ?? ""}`} />;
}

export function ButtonLink({
  to,
  weight = "plain",
  children,
}: {
  to: string;
  weight?: Weight;
  children: React.ReactNode;
}) {
  return (
    <Link to={to} className={`${SHAPE} ${LOOK[weight]}`}>
      {children}
    </Link>
  );
}
