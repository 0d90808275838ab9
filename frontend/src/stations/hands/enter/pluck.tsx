import { ServerSaid } from "../../../api/client";
import { useHearPluck } from "../../../api/hearing";
import { Button } from "../../../ui/button";
import type { WidgetProps } from "../widgets";
import { PadFields } from "./pad-fields";
import { base64Of, useTakeSeconds } from "./take-seconds";

const SECONDS = 3;

/** Pitch, span and mass; the pitch is heard by this device, or typed. */
export function Pluck(props: WidgetProps) {
  const { typed, onChange } = props;
  const hear = useHearPluck();
  const { state, take } = useTakeSeconds(SECONDS, ({ rate_hz, samples }) => {
    hear.mutate(
      { rate_hz, samples: base64Of(samples) },
      {
        onSuccess: (pluck) => {
          onChange({ ...typed, hz: pluck.hz.toFixed(1) });
        },
      },
    );
  });
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Button
          weight="strong"
          className="min-h-20 max-w-sm text-lg"
          disabled={state.at === "taking" || hear.isPending}
          onClick={() => void take()}
        >
          {state.at === "taking" ? `Pluck now: ${String(state.left_s)} s` : hear.isPending ? "Reading it …" : "Hear it"}
        </Button>
        {hear.data ? (
          <p role="status">
            Heard <span className="font-mono font-bold">{hear.data.hz.toFixed(1)} Hz</span>, good to{" "}
            {hear.data.sigma_hz.toFixed(1)} Hz, by {hear.data.lines} of its tones.
            {hear.data.lowest > 1
              ? " The lowest was too low for this microphone: pluck once more, nearer; if half of it comes, believe that."
              : ""}
          </p>
        ) : hear.isError ? (
          <p role="status">
            {hear.error instanceof ServerSaid ? hear.error.message : "No signal here: type the pitch instead."}
          </p>
        ) : state.at === "refused" ? (
          <p role="status">This page may not listen here: type the pitch instead.</p>
        ) : (
          <p className="text-ink-soft">Hold it a hand’s breadth from the span, pluck once, let it ring.</p>
        )}
      </div>
      <PadFields {...props} />
    </div>
  );
}
