import { useState } from "react";

import type { PeopleData } from "../../api/client";
import { useChangePerson, useInvite, useLeave, useMe, useNewPassword, usePace, usePeople } from "../../api/people";
import { clock, numberOf, words } from "../../lib/format";
import { Button } from "../../ui/button";
import { OneChip } from "../../ui/chips";
import { Fetching } from "../../ui/fetching";
import { TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";
import { TypedField } from "../../ui/typed-field";

const ROLES = [
  { value: "technician", label: "Technician" },
  { value: "trainee", label: "Trainee" },
  { value: "owner", label: "Owner" },
];
type Person = PeopleData["people"][number];

/** Whoever is signed in here, and for the owner everybody else. */
export function People() {
  const me = useMe();
  if (!me.data) return <Fetching what="who you are" failed={me.isError} />;
  if (me.data.mode === "open") {
    return (
      <main className="max-w-2xl pt-6">
        <h1 className="pb-3 text-3xl">Nobody signs in here</h1>
        <p>
          This is the demo, open to whoever sits at this machine. Served for a shop, each person signs in, and
          everything that is entered carries a name.
        </p>
      </main>
    );
  }
  return (
    <main className="flex max-w-3xl flex-col gap-8 pt-6">
      <h1 className="text-3xl">
        {me.data.name}, {me.data.role}
      </h1>
      <Own />
      {me.data.role === "owner" ? <Everybody /> : null}
    </main>
  );
}

function Own() {
  const leave = useLeave();
  const change = useNewPassword();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  return (
    <section aria-label="This device" className="flex flex-col gap-4">
      <div className="flex flex-wrap gap-3">
        <Button
          onClick={() => {
            leave.mutate(false);
          }}
        >
          Sign out
        </Button>
        <Button
          onClick={() => {
            leave.mutate(true);
          }}
        >
          Sign out everywhere
        </Button>
      </div>
      <form
        className="flex flex-wrap items-end gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate({ old, new: fresh });
        }}
      >
        <TextField label="Password now" value={old} onChange={setOld} type="password" autoComplete="current-password" />
        <TextField
          label="Another password"
          value={fresh}
          onChange={setFresh}
          type="password"
          autoComplete="new-password"
        />
        <Button type="submit" disabled={old === "" || fresh === "" || change.isPending}>
          Change it
        </Button>
      </form>
      {change.isError ? <Trouble title={change.error.message} safe="The password is as it was." /> : null}
      <Pace />
      {change.isSuccess ? <p role="status">Changed. Other devices were signed out.</p> : null}
    </section>
  );
}

/** How long one takes: the minutes of plans are counted with it, offers with the shop’s. */
function Pace() {
  const me = useMe();
  const pace = usePace();
  return (
    <div className="flex max-w-sm flex-col gap-1">
      <TypedField
        label="My pace"
        hint="1 is practised hands, 2 a first time; empty takes the shop’s. Plans count with it, offers with the shop’s."
        unit="×"
        inputMode="decimal"
        name="my-pace"
        saved={me.data?.pace == null ? "" : String(me.data.pace)}
        read={(typed) => {
          const value = typed.trim() === "" ? null : numberOf(typed);
          if (typed.trim() !== "" && value === null)
            return { ok: false, say: "That is no number: digits, such as 1.5." };
          return { ok: true, value };
        }}
        refused={pace.isError ? pace.error.message : undefined}
        onKeep={(value) => {
          pace.mutate(value);
        }}
      />
    </div>
  );
}

function Everybody() {
  const people = usePeople();
  const invite = useInvite();
  const [role, setRole] = useState("technician");
  if (!people.data) return <Fetching what="the shop’s people" failed={people.isError} />;
  return (
    <>
      <section aria-label="Everybody" className="flex flex-col gap-3">
        <h2 className="text-2xl">Everybody</h2>
        <ul>
          {people.data.people.map((person) => (
            <PersonRow key={person.id} person={person} onCode={invite.mutate} />
          ))}
        </ul>
      </section>
      <section aria-label="Invite somebody" className="flex flex-col gap-3">
        <h2 className="text-2xl">Invite somebody</h2>
        <OneChip
          label="As"
          options={ROLES}
          value={role}
          onChange={(value) => {
            if (value !== "") setRole(value);
          }}
        />
        <div>
          <Button
            weight="strong"
            onClick={() => {
              invite.mutate({ role });
            }}
          >
            Make a code
          </Button>
        </div>
        {invite.isError ? <Trouble title={invite.error.message} safe="Nobody was invited." /> : null}
        {invite.data ? (
          <p role="status" className="sheet p-4">
            Hand this over, it is shown this once and holds once, for {invite.data.days} days:{" "}
            <strong className="block pt-2 font-mono text-2xl">{invite.data.code}</strong>
            <img
              src={invite.data.picture}
              alt="The same as a picture: point the phone of whoever comes in at it"
              className="mt-3 w-56 max-w-full border-2 border-line"
            />
          </p>
        ) : null}
      </section>
      <section aria-label="What was done">
        <h2 className="pb-2 text-2xl">What was done</h2>
        <ul className="text-sm">
          {people.data.audit.map((line) => (
            <li
              key={`${line.at} ${line.what} ${line.who}`}
              className="flex flex-wrap gap-x-4 border-t border-line py-1"
            >
              <span className="font-mono">{clock(line.at)}</span>
              <span>
                <strong>{line.who}</strong> {words(line.what)}
                {line.about ? `: ${line.about}` : ""}
              </span>
            </li>
          ))}
        </ul>
      </section>
    </>
  );
}

function PersonRow({
  person,
  onCode,
}: {
  person: Person;
  onCode: (wish: { role: string } | { person: string }) => void;
}) {
  const change = useChangePerson();
  return (
    <li className="flex flex-col gap-2 border-t border-line py-3">
      <p className="font-bold">
        {person.name}
        {person.disabled ? ", shut out" : ""}
      </p>
      <div className="flex flex-wrap items-center gap-3">
        <OneChip
          label={`What ${person.name} may do`}
          options={ROLES}
          value={person.role}
          onChange={(role) => {
            if (role !== "") change.mutate({ ...person, role });
          }}
        />
        <Button
          onClick={() => {
            change.mutate({ ...person, disabled: !person.disabled });
          }}
        >
          {person.disabled ? "Let in again" : "Shut out"}
        </Button>
        <Button
          onClick={() => {
            onCode({ person: person.id });
          }}
        >
          Code for a new password
        </Button>
      </div>
      {change.isError ? <Trouble title={change.error.message} safe="Nothing was changed." /> : null}
    </li>
  );
}
