import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../../kit/Button";
import { Field } from "../../kit/Field";
import { Panel } from "../../kit/Panel";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { useUntrue } from "../../lib/untrue";

type Option = Schemas["OptionOut"];

/** What a customer may choose: the names of the options, and which cannot be chosen together. */
export function OptionsPanel({ may, onClose }: { may: boolean; onClose: () => void }) {
  const options = useQuery({
    queryKey: ["options"],
    queryFn: () => answer(client.GET("/api/sheets/options")),
    staleTime: 0,
  });
  const [code, setCode] = useState("");
  const untrue = useUntrue();
  const say = useSay();
  const save = useMutation<Option, Refusal, Option>({
    mutationFn: (body) => answer(client.POST("/api/sheets/options", { body })),
    onSuccess: (option) => {
      say(`Saved option ${option.code}.`);
      setCode("");
      untrue("everything");
    },
  });
  const all = options.data ?? [];
  return (
    <Panel
      title="Options"
      note="A line belongs to an option by the code in its option column. An option counts where it is chosen in the basis."
      open
      onClose={onClose}
    >
      <ul className="mt-4 flex flex-col">
        {all.map((option) => (
          <li key={option.code} className="flex flex-col gap-1.5 border-b border-hair py-2.5">
            <Field label={option.code}>
              {(p) => (
                <input
                  {...p}
                  className="field"
                  placeholder="name for customers"
                  defaultValue={option.name}
                  disabled={!may}
                  onBlur={(e) => e.target.value !== option.name && save.mutate({ ...option, name: e.target.value })}
                />
              )}
            </Field>
            {all.length > 1 && (
              <fieldset className="flex flex-wrap gap-x-4 gap-y-1" disabled={!may}>
                <legend className="float-left mr-3 text-ink-2">not together with</legend>
                {all
                  .filter((other) => other.code !== option.code)
                  .map((other) => (
                    <label key={other.code} className="flex items-center gap-1.5">
                      <input
                        type="checkbox"
                        checked={option.not_with.includes(other.code)}
                        onChange={(e) =>
                          save.mutate({
                            ...option,
                            not_with: e.target.checked
                              ? [...option.not_with, other.code]
                              : option.not_with.filter((c) => c !== other.code),
                          })
                        }
                      />
                      {other.code}
                    </label>
                  ))}
              </fieldset>
            )}
          </li>
        ))}
      </ul>
      {!may ? (
        <Button needs="sheets" className="mt-3">
          New option
        </Button>
      ) : (
        <form
          className="mt-3 flex items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate({ code: code.trim(), name: "", not_with: [] });
          }}
        >
          <Field label="New option" error={save.error?.of("code")}>
            {(p) => <input {...p} className="field" value={code} onChange={(e) => setCode(e.target.value)} />}
          </Field>
          <Button type="submit" disabled={!code.trim()}>
            Make it
          </Button>
        </form>
      )}
      {save.error && !save.error.of("code") && (
        <p role="alert" className="mt-2 text-bad">
          {save.error.message}
        </p>
      )}
    </Panel>
  );
}
