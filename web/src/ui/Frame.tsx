import { Button, Menu, Modal, TextInput, UnstyledButton, useMantineColorScheme } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useRouterState } from "@tanstack/react-router";
import { useEffect, useState } from "react";

import { refresh } from "../api/api";
import { client, type Schemas, unwrap } from "../api/client";
import { outbox, useOutbox } from "../api/outbox";
import { setPerson, usePerson } from "../api/person";
import { peopleOptions } from "../api/queries/people";
import { refreshStock } from "../api/queries/stock";
import { regionProps } from "./announce";
import { Find } from "./Find";
import css from "./Frame.module.css";
import { usePage } from "./usePage";
import { useScan } from "./useScan";

const AREAS = [
  { to: "/", label: "Day sheet" },
  { to: "/stock", label: "Stock" },
  { to: "/dial-in", label: "Dial-in" },
  { to: "/studies", label: "Studies" },
  { to: "/bench", label: "Bench" },
  { to: "/rigs", label: "Rigs & methods" },
  { to: "/choose", label: "Choose" },
] as const;

/** What stands around every page: the areas, the way to find, who sits here, and what waits to be sent. */
export function Frame() {
  const path = useRouterState({ select: (s) => s.location.pathname });
  const [finding, setFinding] = useState(false);
  // a page that is fetched first is not there yet when its address is
  usePage(useRouterState({ select: (s) => (s.resolvedLocation ?? s.location).pathname }));
  const navigate = useNavigate();
  // the bench reads its scanner itself
  useScan(!path.startsWith("/bench"), (code) => {
    setFinding(false);
    void navigate({ to: "/c/$code", params: { code } });
  });
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      // in an empty place for a number it begins nothing: it is the command there too
      const free = !target.matches("input, textarea, [contenteditable]") || (target instanceof HTMLInputElement && "entry" in target.dataset && target.value === "");
      if (e.key === "/" && !e.ctrlKey && !e.metaKey && free) {
        e.preventDefault();
        setFinding(true);
      }
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
  return (
    <>
      <a href="#content" className={css.skip}>
        To the content
      </a>
      <header className={css.bar}>
        <Link to="/" className={css.name}>
          Assayer
        </Link>
        <nav className={css.areas} aria-label="Areas">
          {AREAS.map((area) => (
            <Link key={area.to} to={area.to} className={css.area} {...((area.to === "/" ? path === "/" : path.startsWith(area.to) || (area.to === "/rigs" && path.startsWith("/methods"))) ? { "aria-current": "page" as const } : {})}>
              {area.label}
            </Link>
          ))}
        </nav>
        <OutboxNote />
        <UnstyledButton className={css.find} onClick={() => setFinding(true)}>
          <kbd>/</kbd> find or do
        </UnstyledButton>
        <PersonPicker />
      </header>
      <main id="content">
        <Outlet />
      </main>
      <div {...regionProps} />
      <Find open={finding} onClose={() => setFinding(false)} />
    </>
  );
}

/** Entries that wait for the server, and those that it refused: always both. */
function OutboxNote() {
  const { waiting, refused, offline } = useOutbox();
  const queries = useQueryClient();
  useEffect(() => {
    void outbox.refresh().then(() => outbox.flush());
    return outbox.onSent((entry, run) => {
      if (run) refresh(queries, "/api/studies/{study_id}/board", "/api/tests/{test_id}/queue", "/api/tests/{test_id}/findings", "/api/tests/{test_id}/curves", "/api/studies", "/api/specimens/{specimen_id}");
      if (entry.kind !== "run" && entry.kind !== "retract") refreshStock(queries);
    });
  }, [queries]);
  const fresh = refused.filter((e) => !e.kept).length;
  const words = [
    fresh ? `${String(fresh)} refused` : "",
    refused.length > fresh ? `${String(refused.length - fresh)} kept here` : "",
    waiting ? `${String(waiting)} ${waiting === 1 ? "entry waits" : "entries wait"}${offline ? " for the server" : ""}` : "",
  ].filter(Boolean);
  return (
    <div role="status">
      {words.length > 0 && (
        <Link to="/unsent" className={css.outbox} data-refused={fresh > 0 || undefined}>
          {words.join(" · ")}
        </Link>
      )}
    </div>
  );
}

function PersonPicker() {
  const name = usePerson();
  const people = useQuery(peopleOptions());
  const [adding, setAdding] = useState(false);
  const [typed, setTyped] = useState("");
  const queries = useQueryClient();
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  const known = people.data?.items ?? [];
  const add = async () => {
    const wanted = typed.trim();
    if (!wanted) return;
    setPerson(wanted);
    setAdding(false);
    setTyped("");
    unwrap<Schemas["People"]>(await client.PUT("/api/people/{name}", { params: { path: { name: wanted } } }));
    refresh(queries, "/api/people");
  };
  return (
    <>
      <Menu position="bottom-end">
        <Menu.Target>
          <UnstyledButton className={css.person}>{name || "Who are you?"}</UnstyledButton>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>Entries are signed with</Menu.Label>
          {known.map((person) => (
            <Menu.Item key={person} onClick={() => setPerson(person)} {...(person === name ? { "aria-current": "true" as const, fw: 700 } : {})}>
              {person}
            </Menu.Item>
          ))}
          <Menu.Item onClick={() => setAdding(true)}>somebody else …</Menu.Item>
          <Menu.Divider />
          <Menu.Label>Notebook</Menu.Label>
          <Menu.Item component={Link} to="/safekeeping">
            backups and check
          </Menu.Item>
          <Menu.Item component={Link} to="/units">
            units shown
          </Menu.Item>
          <Menu.Divider />
          <Menu.Label>Paper</Menu.Label>
          {(["light", "dark", "auto"] as const).map((scheme) => (
            <Menu.Item key={scheme} onClick={() => setColorScheme(scheme)} {...(scheme === colorScheme ? { fw: 700 } : {})}>
              {scheme === "auto" ? "as the system" : scheme}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      <Modal opened={adding} onClose={() => setAdding(false)} title="Somebody else">
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void add();
          }}
        >
          <TextInput label="Name" value={typed} onChange={(e) => setTyped(e.currentTarget.value)} data-autofocus maxLength={80} />
          <Button type="submit" mt="md">
            Sign with this name
          </Button>
        </form>
      </Modal>
    </>
  );
}
