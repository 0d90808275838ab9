import { useState } from "react";

import type { ShopData } from "../../api/client";
import { useSettle, useShop } from "../../api/shop";
import { clock } from "../../lib/format";
import { money } from "../../lib/money";
import { ButtonLink } from "../../ui/button";
import { ManyChips, OneChip } from "../../ui/chips";
import { Fetching } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { Codes } from "./codes";
import { GROUPS, readSetting, type Setting, typedSetting } from "./settings";

const SUM = "sum";

/** What the shop has settled: each number with its reason, the schools of the trade, and its price book. */
export function Shop() {
  const shop = useShop();
  const settle = useSettle();
  if (!shop.data) {
    return (
      <main>
        <h1 className="pt-6 text-3xl">The shop</h1>
        <Fetching what="the shop’s settings" failed={shop.isError} />
      </main>
    );
  }
  const keep = (name: string, value: unknown) => {
    settle.mutate({ [name]: value });
  };
  const { schools } = shop.data;
  const lacks = (shop.data.settings["lacks"] ?? []) as readonly string[];
  return (
    <main className="flex max-w-4xl flex-col gap-8 pt-6">
      <div className="flex flex-wrap items-center justify-between gap-4">
        <h1 className="text-3xl">The shop</h1>
        <div className="flex flex-wrap gap-3">
          <ButtonLink to="/record">How often we were right</ButtonLink>
          <ButtonLink to="/stock">Machines of our own</ButtonLink>
          <ButtonLink to="/people">People</ButtonLink>
        </div>
      </div>
      {settle.isError ? (
        <Trouble title={settle.error.message} safe="The settings are as they were." next="Put in another value." />
      ) : null}
      {settle.isSuccess ? <p role="status">Kept.</p> : null}
      {GROUPS.map((group) => (
        <section key={group.title} aria-label={group.title}>
          <h2 className="pb-2 text-xl">{group.title}</h2>
          <ul className="grid gap-x-8 gap-y-4 sm:grid-cols-2">
            {group.settings.map((setting) => (
              <li key={setting.name}>
                <SettingField
                  // A value that was kept elsewhere shows here as well.
                  key={String(shop.data.settings[setting.name])}
                  setting={setting}
                  shop={shop.data}
                  onKeep={(value) => {
                    keep(setting.name, value);
                  }}
                />
              </li>
            ))}
          </ul>
        </section>
      ))}
      <section aria-label="Schools">
        <h2 className="pb-2 text-xl">Where practitioners disagree</h2>
        <ul className="flex flex-col gap-6">
          {schools.map((school) => (
            <li key={school.code}>
              <p className="pb-1 font-bold">{school.name}</p>
              <OneChip
                label={school.name}
                options={[
                  ...(school.usual === "" ? [{ value: SUM, label: "The sum decides" }] : []),
                  ...school.ways.map((way) => ({ value: way.code, label: way.name })),
                ]}
                value={school.way || school.usual || SUM}
                onChange={(way) => {
                  if (way === "") return;
                  const others = Object.fromEntries(schools.filter((s) => s.way !== "").map((s) => [s.code, s.way]));
                  keep("schools", { ...others, [school.code]: way === SUM ? "" : way });
                }}
              />
              <p className="pt-1 text-sm text-ink-soft">
                {school.ways
                  .map((way) => `${way.name}: ${way.argument[0]?.toLowerCase() ?? ""}${way.argument.slice(1)}`)
                  .join(". ")}
                . {school.reason}.
              </p>
            </li>
          ))}
        </ul>
      </section>
      <section aria-label="Tools">
        <h2 className="pb-2 text-xl">Tools in the shop</h2>
        <p className="max-w-prose pb-3 text-ink-soft">{shop.data.why["lacks"]}</p>
        <ManyChips
          label="Tools in the shop"
          options={shop.data.tools.map((tool) => ({ value: tool.code, label: tool.name }))}
          value={shop.data.tools.map((tool) => tool.code).filter((code) => !lacks.includes(code))}
          onChange={(held) => {
            keep(
              "lacks",
              shop.data.tools.map((tool) => tool.code).filter((code) => !held.includes(code)),
            );
          }}
        />
      </section>
      <Codes shop={shop.data} />
      <Prices shop={shop.data} />
    </main>
  );
}

function SettingField({
  setting,
  shop,
  onKeep,
}: {
  setting: Setting;
  shop: ShopData;
  onKeep: (value: string | number | boolean) => void;
}) {
  const now = shop.settings[setting.name];
  const currency = String(shop.settings["currency"]);
  const [typed, setTyped] = useState(typedSetting(setting, now, shop.digits));
  const why = shop.why[setting.name] ?? "";
  if (setting.kind === "flag") {
    return (
      <label className="flex min-h-12 items-center gap-3">
        <input
          type="checkbox"
          className="size-6"
          checked={now === true}
          onChange={(event) => {
            onKeep(event.target.checked);
          }}
        />
        <span>
          <span className="font-bold">{setting.label}</span>
          <span className="block text-sm text-ink-soft">{why}</span>
        </span>
      </label>
    );
  }
  const read = readSetting(setting, typed, currency);
  const wrong = read === null;
  return (
    <label className="flex flex-col gap-1">
      <span className="font-bold">{setting.label}</span>
      <span className="flex items-center gap-2">
        <input
          className="field max-w-40 text-right font-mono"
          inputMode={setting.kind === "text" ? "text" : "decimal"}
          aria-invalid={wrong}
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
          }}
          onBlur={() => {
            if (read !== null && read !== now) onKeep(read);
          }}
        />
        {setting.kind === "money" ? currency : setting.unit}
      </span>
      {wrong ? <span role="alert">That is no number: digits, such as 24.50.</span> : null}
      <span className="text-sm text-ink-soft">{why}</span>
    </label>
  );
}

function Prices({ shop }: { shop: ShopData }) {
  return (
    <section aria-label="Price book">
      <h2 className="pb-2 text-xl">Price book</h2>
      {shop.prices.length === 0 ? (
        <p>No price was said yet. Touch a part’s line at the Cost station: what you say there is remembered here.</p>
      ) : (
        <ul className="flex flex-col">
          {shop.prices.map((price) => (
            <li key={`${price.code} ${price.platform}`} className="flex flex-wrap gap-x-4 border-b border-line py-2">
              <span className="font-bold">{price.name}</span>
              <span className="text-ink-soft">
                {[price.platform, price.source, clock(price.said_at)].filter((t) => t !== "").join(", ")}
              </span>
              <span className="ml-auto font-mono">{money({ minor: price.amount, currency: price.currency })}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
