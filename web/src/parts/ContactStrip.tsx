import { shallow } from "zustand/shallow";
import { FirstStep } from "./FirstStep";
import { memo, useCallback, useRef, useState } from "react";
import type { Mix } from "../api/types";
import { cardsOf, moveSource, orderStrip, setStrip, shareOf, useStrip } from "../state/strip";
import { editLook, removeRow } from "../state/edits";
import { groupKey, lookRow, NO_MIX, sourceList, useLookPart, type SourceLine } from "../state/look";
import { get, set, useStudio } from "../state/store";
import { Level } from "./Level";
import { percent, signed } from "./words";
import { Menu, type MenuLine } from "../ui/Menu";
import { Tip } from "../ui/Tip";

const HEIGHT = "strip h-[126px]";

/** One small picture per source: what it alone adds to this view. The only mixer of the page. */
export function ContactStrip() {
  const project = useStudio((s) => s.project);
  const prints = useStudio((s) => s.contributions);
  const selected = useStudio((s) => s.selected);
  const strip = useStrip();
  const mix = useLookPart("mix");
  const sky = useLookPart("sky");
  const { attach, hidden, count, onward } = useHidden();
  if (!project || !mix || !sky || project.models.length === 0)
    return <div className={`${HEIGHT} shrink-0 bg-mount-3`} />;
  const sources = sourceList(project, { mix, sky });
  const cards = cardsOf(sources, prints, strip, selected);
  return (
    <div className={`relative ${HEIGHT} shrink-0 bg-mount-3 text-on-mount`}>
      <FirstStep step="level" className="stemmed absolute bottom-[calc(100%+54px)] left-[122px]" />
      <div
        ref={attach}
        onScroll={count}
        className="flex h-full gap-[8px] overflow-x-auto overflow-y-hidden px-3 pt-[9px] [scrollbar-width:none]"
        role="list"
        aria-label="Sources"
      >
        {cards.map((c) =>
          c.kind === "source" ? (
            <Print key={c.id} source={c.source} member={c.member} />
          ) : c.kind === "group" ? (
            <Group
              key={c.id}
              name={c.name}
              members={c.members}
              open={c.open}
              mix={mix[groupKey(c.name)]}
            />
          ) : (
            <Dark key={c.id} sources={c.sources} open={c.open} />
          ),
        )}
      </div>
      {hidden > 0 && (
        <button
          className="absolute inset-y-0 right-0 w-[46px] border-l border-on-mount-2/60 bg-mount-3/90 text-small hover:text-sun-on-mount"
          aria-label={`${hidden} more sources to the right`}
          onClick={onward}
        >
          {hidden} more ▸
        </button>
      )}
    </div>
  );
}

/** How many cards lie beyond the right edge of a row that scrolls. */
function useHidden() {
  const row = useRef<HTMLDivElement | null>(null);
  const [hidden, setHidden] = useState(0);
  const count = useCallback(() => {
    const shown = row.current;
    if (!shown) return;
    const end = shown.scrollLeft + shown.clientWidth + 12;
    const cards = [...shown.querySelectorAll<HTMLElement>("[role=listitem]")];
    setHidden(cards.filter((e) => e.offsetLeft + e.offsetWidth > end).length);
  }, []);
  const attach = useCallback(
    (shown: HTMLDivElement | null) => {
      row.current = shown;
      if (!shown) return;
      const sized = new ResizeObserver(count);
      sized.observe(shown);
      const changed = new MutationObserver(count);
      changed.observe(shown, { childList: true });
      return () => {
        sized.disconnect();
        changed.disconnect();
      };
    },
    [count],
  );
  const onward = () => row.current?.scrollBy({ left: row.current.clientWidth * 0.7 });
  return { attach, hidden, count, onward };
}

/** A picture with a name, a share, a level and the two switches: all there is to mix by. */
function CardBody(p: {
  id: string;
  name: string;
  label: string;
  mix: Mix;
  silent: boolean;
  share: number | null;
  burnt: number;
  colour: string;
}) {
  const change = (mix: Partial<Mix>, label: string) =>
    void editLook({ mix: { [p.id]: mix } }, `${label} ${p.name}`);
  return (
    <>
      <div
        className={`mt-[4px] flex items-center gap-[5px] text-small ${p.silent ? "text-on-mount-2 italic" : ""}`}
      >
        <i
          className="h-[7px] w-[7px] shrink-0 rounded-full"
          style={{ background: p.colour }}
          aria-hidden="true"
        />
        <Tip text={p.name}>
          <span data-carry className="min-w-0 flex-1 truncate">
            {p.label}
          </span>
        </Tip>
        <Tip text="Part of the light of this picture">
          <span className="shrink-0 text-small text-on-mount-2">
            {p.silent || p.share === null ? "" : shareText(p.share)}
          </span>
        </Tip>
      </div>
      <div className="grid grid-cols-[1fr_32px] items-center gap-[5px]">
        <Level id={p.id} name={p.name} bare />
      </div>
      <div className="flex justify-between text-small text-on-mount-2">
        <Tip text="Part of the picture that it clips by itself">
          <span className={p.burnt > 0.002 ? "text-sun-on-mount" : ""}>
            {p.burnt > 0.0005 && !p.silent ? `▴${percent(p.burnt)}` : " "}
          </span>
        </Tip>
        <span className="flex gap-[7px]">
          <button
            aria-pressed={p.mix.solo}
            aria-label={`Solo ${p.name}`}
            className={p.mix.solo ? "font-bold text-on-mount" : "hover:text-on-mount"}
            onClick={() => change({ solo: !p.mix.solo }, "Solo")}
          >
            solo
          </button>
          <button
            aria-pressed={p.mix.muted}
            aria-label={`Mute ${p.name}`}
            className={p.mix.muted ? "font-bold text-on-mount" : "hover:text-on-mount"}
            onClick={() => change({ muted: !p.mix.muted }, "Mute")}
          >
            mute
          </button>
        </span>
      </div>
    </>
  );
}

const shareText = (share: number) =>
  share < 0.001 ? "0 %" : share < 0.01 ? "< 1 %" : `${Math.round(share * 100)} %`;

const PRINT = "print block h-[54px] w-full overflow-hidden rounded-[1px]";
const CARD = "w-[97px] shrink-0";

/** What a source alone adds; the mark tells that it is shown brighter than it is. */
function Small({ id, silent }: { id: string; silent: boolean }) {
  const print = useStudio((s) => s.contributions[id]);
  if (!print) return <i className="block h-full bg-black/40" />;
  return (
    <img
      id={`print-${id}`}
      src={print.url}
      alt={print.described}
      className={`h-full w-full object-cover ${silent ? "opacity-25" : ""}`}
    />
  );
}

/** What lies over a print without being part of the button under it. */
const MARK = "when-high pointer-events-none absolute right-0 bg-black/65 text-white not-italic";

/** How much brighter than the picture a print is shown, so that something is seen. */
function Lifted({ id }: { id: string }) {
  const print = useStudio((s) => s.contributions[id]);
  if (!print || print.lifted_ev === null || print.headroom === null) return null;
  return (
    <i className={`${MARK} bottom-0 px-[3px] text-fine leading-[13px]`}>
      {signed(print.lifted_ev, 0)} EV
    </i>
  );
}

/** Whether its switches are as they were; a level is drawn by itself. */
const sameSwitches = (a: Mix = NO_MIX, b: Mix = NO_MIX) => a.solo === b.solo && a.muted === b.muted;

/** Whether a source is as it was: the list of them is made anew for every move of a hand. */
function sameSource(a: SourceLine, b: SourceLine) {
  const { mix: mixA, ...restA } = a;
  const { mix: mixB, ...restB } = b;
  return shallow(restA, restB) && sameSwitches(mixA, mixB);
}

const Print = memo(PrintCard, (a, b) => a.member === b.member && sameSource(a.source, b.source));

function PrintCard({ source: s, member }: { source: SourceLine; member: boolean }) {
  const print = useStudio((state) => state.contributions[s.id]);
  const selected = useStudio((state) => state.selected === s.id);
  const carry = useCarry(s.id);
  return (
    <Menu label={`What to do with ${s.name}`} lines={() => linesOf(s)}>
      <div
        role="listitem"
        aria-label={s.name}
        data-testid={`source-${s.id}`}
        data-card={s.id}
        className={`${CARD} ${member ? "border-t-2 border-on-mount-2/70 -mt-[4px] pt-[2px]" : ""}`}
        {...carry}
      >
        <div className="relative">
          <button
            className={`${PRINT} ${selected ? "outline-2 outline-sun-on-mount" : ""}`}
            aria-pressed={selected}
            aria-label={`Select ${s.name}`}
            aria-describedby={`print-${s.id}`}
            onClick={() => set({ selected: s.id })}
          >
            <Small id={s.id} silent={s.silent} />
          </button>
          <Lifted id={s.id} />
        </div>
        <CardBody
          id={s.id}
          name={s.name}
          label={s.name}
          mix={s.mix}
          silent={s.silent}
          share={print?.share ?? null}
          burnt={print?.burnt ?? 0}
          colour={print?.colour ?? "#888"}
        />
      </div>
    </Menu>
  );
}

/** What can be done with a source, from its card. */
function linesOf(s: SourceLine): MenuLine[] {
  const { project, contributions } = get();
  const mix = lookRow(get())?.settings.mix ?? {};
  const change = (patch: Partial<Mix>, label: string) =>
    void editLook({ mix: { [s.id]: patch } }, `${label} ${s.name}`);
  const below = contributions[s.id]?.just_below ?? null;
  const level = mix[s.id]?.level ?? 0;
  const just = below === null ? null : Math.round((level + below) * 10) / 10;
  const others = Object.entries(mix).filter(([, m]) => m.solo || m.muted);
  const all = Object.fromEntries(others.map(([id]) => [id, { solo: false, muted: false } as Mix]));
  const row = project?.sources.find((r) => r.id === s.id);
  const { order } = useStrip.getState();
  return [
    {
      label: "Show its settings",
      onPick: () => set({ selected: s.id, stage: row ? "Fixtures" : "Daylight" }),
    },
    null,
    { label: "Solo", chosen: s.mix.solo, onPick: () => change({ solo: !s.mix.solo }, "Solo") },
    { label: "Mute", chosen: s.mix.muted, onPick: () => change({ muted: !s.mix.muted }, "Mute") },
    {
      label: "No source solo or muted",
      disabled: others.length === 0,
      onPick: () => void editLook({ mix: all }, "No source solo or muted"),
    },
    null,
    {
      label: "Level 0 EV",
      disabled: level === 0,
      onPick: () => change({ level: 0 }, "Level of"),
    },
    {
      label: just === null ? "Just below clipping" : `Just below clipping: ${signed(just)} EV`,
      disabled: just === null || Math.abs(just) > 8,
      onPick: () => just !== null && change({ level: just }, "Level of"),
    },
    null,
    {
      label: "Order by share",
      chosen: order === "share",
      onPick: () => orderStrip(order === "share" ? "given" : "share"),
    },
    ...(row?.settings.kind === "fixture"
      ? [null, { label: `Remove ${s.name}`, onPick: () => void removeRow("source", s.id) }]
      : []),
  ];
}

interface GroupProps {
  name: string;
  members: SourceLine[];
  open: boolean;
  mix: Mix | undefined;
}

const Group = memo(
  GroupCard,
  (a, b) =>
    a.name === b.name &&
    a.open === b.open &&
    sameSwitches(a.mix, b.mix) &&
    a.members.length === b.members.length &&
    a.members.every((s, n) => sameSource(s, b.members[n] as SourceLine)),
);

/** Sources balanced together: one card, which unfolds to its members. */
function GroupCard(p: GroupProps) {
  const prints = useStudio((s) => s.contributions);
  const key = groupKey(p.name);
  const silent = p.members.every((s) => s.silent);
  const share = (s: SourceLine) => prints[s.id]?.share ?? 0;
  const brightest = p.members.reduce((a, b) => (share(b) > share(a) ? b : a));
  const fold = () => setStrip((s) => ({ unfolded: { ...s.unfolded, [p.name]: !p.open } }));
  return (
    <div role="listitem" aria-label={`Group ${p.name}`} className={CARD}>
      <div className="relative">
        <button
          className={`${PRINT} bg-black/40 shadow-[3px_-3px_0_-1px_var(--mount-3),3px_-3px_0_0_var(--on-mount-2)]`}
          aria-expanded={p.open}
          aria-label={`${p.open ? "Fold" : "Unfold"} ${p.name}`}
          onClick={fold}
        >
          {brightest && <Small id={brightest.id} silent={silent} />}
        </button>
        <i className={`${MARK} top-0 px-[4px] text-fine leading-[14px]`}>
          {p.members.length} {p.open ? "◂" : "▸"}
        </i>
        {brightest && <Lifted id={brightest.id} />}
      </div>
      <CardBody
        id={key}
        name={p.name}
        label={p.name}
        mix={{ ...NO_MIX, ...p.mix }}
        silent={silent}
        share={shareOf(p.members, prints)}
        burnt={0}
        colour={prints[p.members[0]?.id ?? ""]?.colour ?? "#888"}
      />
    </div>
  );
}

const Dark = memo(
  DarkCard,
  (a, b) => a.open === b.open && a.sources.map(nameOf).join() === b.sources.map(nameOf).join(),
);

const nameOf = (s: SourceLine) => s.name;

/** Sources without light in this view. */
function DarkCard({ sources, open }: { sources: SourceLine[]; open: boolean }) {
  return (
    <div role="listitem" aria-label="Dark here" className={CARD}>
      <Tip text={`${sources.map(nameOf).join(", ")}: none of their light is in this view`}>
        <button
          className={`${PRINT} border border-dashed border-on-mount-2/60 text-on-mount-2 hover:text-on-mount`}
          aria-expanded={open}
          onClick={() => setStrip({ darkShown: !open })}
        >
          {sources.length} dark here {open ? "◂" : "▸"}
        </button>
      </Tip>
    </div>
  );
}

/** A hand has moved a card when it went so far, in pixels. */
const MOVED = 8;

/** A card is carried by its name to another place in the row, or moved by Alt with an arrow key. */
function useCarry(id: string) {
  const from = useRef<{ x: number; carried: boolean } | null>(null);
  const lamp = (other: string | undefined) =>
    !!other && !!get().project?.sources.some((s) => s.id === other);
  if (!lamp(id)) return {};
  const put = (before: string | null) => {
    const { project } = get();
    if (!project) return;
    orderStrip("given");
    void moveSource(project, id, before);
  };
  return {
    onPointerDown: (e: React.PointerEvent<HTMLElement>) => {
      if (e.button === 0 && (e.target as HTMLElement).closest("[data-carry]")) {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = { x: e.clientX, carried: false };
      }
    },
    onPointerMove: (e: React.PointerEvent<HTMLElement>) => {
      const d = from.current;
      if (!d) return;
      d.carried ||= Math.abs(e.clientX - d.x) > MOVED;
      if (d.carried) e.currentTarget.style.translate = `${e.clientX - d.x}px 0`;
    },
    onPointerUp: (e: React.PointerEvent<HTMLElement>) => {
      const d = from.current;
      from.current = null;
      const card = e.currentTarget;
      card.style.translate = "";
      if (!d?.carried) return;
      const cards = [...(card.parentElement?.querySelectorAll<HTMLElement>("[data-card]") ?? [])];
      const others = cards.filter((c) => c !== card && lamp(c.dataset.card));
      const next = others.find((c) => {
        const box = c.getBoundingClientRect();
        return e.clientX < box.left + box.width / 2;
      });
      put(next?.dataset.card ?? null);
    },
    onPointerCancel: (e: React.PointerEvent<HTMLElement>) => {
      from.current = null;
      e.currentTarget.style.translate = "";
    },
    onKeyDown: (e: React.KeyboardEvent<HTMLElement>) => {
      const way = e.key === "ArrowLeft" ? -1 : e.key === "ArrowRight" ? 1 : 0;
      if (!way || !e.altKey || (e.target as HTMLElement).getAttribute("aria-pressed") === null)
        return;
      e.preventDefault();
      const ids = get().project?.sources.map((s) => s.id) ?? [];
      const at = ids.indexOf(id);
      put((way < 0 ? ids[at - 1] : ids[at + 2]) ?? (way < 0 ? (ids[0] ?? null) : null));
    },
  };
}
