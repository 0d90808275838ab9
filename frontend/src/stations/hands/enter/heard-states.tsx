import type { WidgetProps } from "../widgets";
import { RecordIt } from "./record-it";
import { States } from "./states";

const SECONDS = 10;

/** Big states, and the sound behind them where somebody wants to keep it. */
export function HeardStates(props: WidgetProps) {
  return (
    <div className="flex flex-col gap-6">
      <States {...props} />
      <RecordIt
        seconds={SECONDS}
        test="agitate"
        name={props.check.code}
        ask="Record it"
        hint="Lay the phone on the machine’s top, start the shift, and hear it again as often as you like."
      />
    </div>
  );
}
