import { useEffect, useState } from "react";

import { useEnter } from "../../api/people";
import { useWaiting } from "../../device/device";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";

/** The door: a name and a password, or a code that somebody was given. */
export function SignIn() {
  // Whoever pointed a phone at an invitation comes with its code.
  const [handed] = useState(() => /^#code=([A-Z0-9-]+)$/i.exec(window.location.hash)?.[1] ?? "");
  const [byCode, setByCode] = useState(handed !== "");
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState(handed);
  const enter = useEnter();
  const { entries, files } = useWaiting();
  useEffect(() => {
    // The code is for this page alone: not for its history.
    if (handed !== "") window.history.replaceState(null, "", window.location.pathname);
  }, [handed]);
  const waiting = entries.length + files.length;
  return (
    <main className="mx-auto flex max-w-md flex-col gap-5 pt-10">
      <p className="flex items-center gap-2 font-voice text-lg font-semibold">
        <img src="/mark.svg" alt="" width="26" height="26" />
        Eager Ear
      </p>
      <h1 className="text-3xl">{byCode ? "Come in with a code" : "Who is it?"}</h1>
      {waiting > 0 ? (
        <p className="border-l-4 border-ink pl-4">
          {waiting} {waiting === 1 ? "entry waits" : "entries wait"} on this device, and are sent as soon as somebody is
          signed in.
        </p>
      ) : null}
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          enter.mutate(byCode ? { code, name, password } : { name, password });
        }}
      >
        {byCode ? (
          <TextField
            label="Code"
            hint="Four groups of four, from the owner or the machine that serves; it holds once."
            value={code}
            onChange={setCode}
            autoComplete="one-time-code"
            autoCapitalize="characters"
          />
        ) : null}
        <TextField
          label="Name"
          {...(byCode ? { hint: "As it stands beside what you enter; leave it empty to set your password anew." } : {})}
          value={name}
          onChange={setName}
          autoComplete="username"
        />
        <TextField
          label="Password"
          {...(byCode ? { hint: "At least ten characters: a short sentence of your own is easiest." } : {})}
          value={password}
          onChange={setPassword}
          type="password"
          autoComplete={byCode ? "new-password" : "current-password"}
        />
        {enter.isError ? <Trouble title={enter.error.message} safe="What waits on this device is kept." /> : null}
        <Button type="submit" weight="strong" disabled={enter.isPending || password === "" || (byCode && code === "")}>
          {enter.isPending ? "Looking …" : byCode ? "Come in" : "Sign in"}
        </Button>
      </form>
      <Button
        weight="quiet"
        onClick={() => {
          setByCode(!byCode);
          enter.reset();
        }}
      >
        {byCode ? "I have a password" : "I have a code"}
      </Button>
      <p className="text-sm text-ink-soft">
        Forgotten: the owner makes a code under People, or whoever sits at the machine that serves, with ./ear recover.
      </p>
    </main>
  );
}
