import { DropdownMenu } from "radix-ui";
import { Link, useLocation } from "react-router";
import { type Place, placeOf, usePlaces } from "./places";

/** The screens in the order of the work, in one line; where one is, its own word stands beside its group. */
export function Bar() {
  const here = placeOf(useLocation().pathname);
  return (
    <nav aria-label="Screens" className="flex gap-5">
      {usePlaces().map(([group, places]) =>
        places.length === 1 ? (
          <Link key={group} to={places[0]!.to} className={look(here === places[0])}>
            {places[0]!.word}
          </Link>
        ) : (
          <Group key={group} group={group} places={places} here={here} />
        ),
      )}
    </nav>
  );
}

const look = (active: boolean) =>
  `border-b-2 pt-[13px] pb-[11px] whitespace-nowrap outline-offset-[-4px] ${active ? "border-bar-line text-white" : "border-transparent text-bar-quiet hover:text-white"}`;

function Group({ group, places, here }: { group: string; places: Place[]; here: Place | undefined }) {
  const active = here && places.includes(here) ? here : undefined;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button type="button" className={look(!!active)} aria-label={active ? `${group}: ${active.word}` : group}>
          {active ? <span className="text-bar-quiet">{group} </span> : group}
          {active?.word}
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="rise z-50 min-w-[190px] border border-hair-2 bg-paper py-1 shadow-lg"
        >
          {places.map((place) => (
            <DropdownMenu.Item key={place.to} asChild>
              <Link
                to={place.to}
                aria-current={place === active ? "page" : undefined}
                className={`block px-3 py-1.5 outline-none data-[highlighted]:bg-blue-tint ${place === active ? "font-semibold" : ""}`}
              >
                {place.word}
              </Link>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
