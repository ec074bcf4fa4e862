import { useState } from "react";
import { useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { type Role, usePartners } from "../kit/PartnerNames";
import type { Schemas } from "../lib/api";
import { FirmPanel } from "./FirmPanel";
import { PartnerPanel } from "./PartnerPanel";

type Partner = Schemas["PartnerOut"];

const ROLES: [Role | "", string][] = [
  ["", "all"],
  ["customer", "customers"],
  ["supplier", "suppliers"],
  ["maker", "makers"],
];

const roles = (p: Partner) => (["customer", "supplier", "maker"] as const).filter((role) => p[role]).join(", ");

const COLUMNS: DataColumn<Partner>[] = [
  {
    key: "code",
    title: "Code",
    width: "90px",
    value: (p) => p.code,
    show: (p) => <span className="pn">{p.code}</span>,
  },
  { key: "name", title: "Name", width: "minmax(180px,1.4fr)", value: (p) => p.name },
  { key: "roles", title: "Role", width: "170px", value: roles, groups: true },
  { key: "currency", title: "Currency", width: "80px", value: (p) => p.currency || null },
  { key: "contact", title: "Contact", width: "minmax(110px,1fr)", value: (p) => p.contact || null },
  { key: "mail", title: "Mail", width: "minmax(130px,1fr)", value: (p) => p.mail || null },
  { key: "parts", title: "Parts", width: "70px", value: (p) => p.parts || null, number: true },
  {
    key: "operations",
    title: "Operations",
    width: "90px",
    value: (p) => p.operations || null,
    number: true,
    total: true,
  },
  {
    key: "maker_numbers",
    title: "Makers' numbers",
    width: "120px",
    value: (p) => p.maker_numbers || null,
    number: true,
    total: true,
  },
];

/** Customers, suppliers and makers in one list. */
export function PartnersScreen() {
  const [params, setParams] = useSearchParams();
  const [role, setRole] = useState<Role | "">("");
  const list = usePartners(role);
  const partners = list.data ?? [];
  const open = partners.find((p) => p.code === params.get("code"));
  const close = () => setParams({});
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">Partners</h1>
        <fieldset className="flex gap-3" aria-label="Which partners">
          {ROLES.map(([key, label]) => (
            <label key={key} className="flex items-center gap-1.5 text-ink-2">
              <input type="radio" name="role" checked={role === key} onChange={() => setRole(key)} />
              {label}
            </label>
          ))}
        </fieldset>
        <Button className="ml-auto" onClick={() => setParams({ ourselves: "1" })}>
          Who we are
        </Button>
        <Button needs="partners" look="strong" onClick={() => setParams({ new: "1" })}>
          New partner
        </Button>
      </div>
      {list.error && (
        <p role="alert" className="text-bad">
          {list.error.message}
        </p>
      )}
      {list.data && partners.length === 0 ? (
        <Empty title={role ? "None of these yet" : "No partners yet"}>
          A supplier or a maker that a part names is kept here by itself; a customer is made here.
        </Empty>
      ) : (
        <DataTable
          name="partners"
          title="Partners"
          columns={COLUMNS}
          rows={partners}
          onOpen={(p) => setParams({ code: p.code })}
        />
      )}
      {params.has("ourselves") && <FirmPanel onClose={close} />}
      {(open || params.has("new")) && <PartnerPanel key={open?.code ?? "new"} partner={open ?? null} onClose={close} />}
    </div>
  );
}
