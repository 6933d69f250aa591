import { Dialogue } from "../ui/Dialogue";
import { Row } from "../ui/Row";
import { AlertDialog, Dialog, DropdownMenu } from "radix-ui";
import { useEffect, useState } from "react";
import {
  addExample,
  begin,
  bringBack,
  duplicate,
  enter,
  EXAMPLE,
  listProjects,
  openFile,
  remove,
  rename,
  type ProjectCard,
  type Town,
} from "../state/home";
import { useVocabulary } from "../state/vocabulary";
import { useGone } from "../state/edits";
import { set, useStudio } from "../state/store";
import { Brand } from "./Brand";
import { TownSearch } from "./TownSearch";
import { FileButton } from "../ui/FileButton";
import { MENU, MENU_ITEM } from "../ui/Menu";

/** How the file of a whole project ends. */
const PROJECT_FILE = ".westlight.zip";

/** The first page: every project with its last picture; new ones, and those of other machines. */
export function Home() {
  const projects = useStudio((s) => s.projects);
  const away = useGone();
  const note = useStudio((s) => s.note) || away;
  const open = useStudio((s) => s.project);
  const [search, setSearch] = useState("");
  const [gone, setGone] = useState<ProjectCard | null>(null);
  const [dropped, setDropped] = useState<File | null>(null);
  const [over, setOver] = useState(false);
  const [adding, setAdding] = useState(false);
  useEffect(() => void listProjects(), []);
  const wanted = search.trim().toLowerCase();
  const shown = [...projects]
    .filter((p) => [p.name, ...p.looks].some((t) => t.toLowerCase().includes(wanted)))
    .sort((a, b) => b.changed_at.localeCompare(a.changed_at));
  return (
    <div
      className={`flex h-full flex-col bg-sheet text-ink ${over ? "outline-2 -outline-offset-4 outline-ink outline-dashed" : ""}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const file = e.dataTransfer.files[0];
        if (!file) return;
        // A project is opened; anything else is the building of a new one.
        if (file.name.toLowerCase().endsWith(PROJECT_FILE)) void openFile(file);
        else setDropped(file);
      }}
    >
      <header className="flex h-[64px] shrink-0 items-center gap-4 border-b border-rule px-8">
        <Brand size={24} />
        <input
          className="entry ml-8 w-[240px]"
          type="search"
          placeholder="Find a project or look …"
          aria-label="Find a project"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        <span className="ml-auto flex items-center gap-2">
          <NewProject
            key={dropped ? `${dropped.name} ${dropped.lastModified}` : ""}
            dropped={dropped}
            onDone={() => setDropped(null)}
          />
          <FileButton
            label="Project file"
            endings={[".zip"]}
            tip="A file that another machine exported"
            onFiles={([file]) => file && void openFile(file)}
          >
            Open a project file …
          </FileButton>
          {open && (
            <button className="quiet ml-3" onClick={() => set({ home: false })}>
              Back to {open.name}
            </button>
          )}
        </span>
      </header>
      {(note || gone) && (
        <div className="flex gap-3 border-b border-rule px-8 py-2" role="status">
          {note
            ? note
            : gone && (
                <>
                  <span>
                    {gone.name} is removed. Its space is freed in Handover, under Storage.
                  </span>
                  <button
                    className="underline"
                    onClick={() => {
                      void bringBack(gone);
                      setGone(null);
                    }}
                  >
                    Bring it back
                  </button>
                </>
              )}
        </div>
      )}
      <main className="flex min-h-0 flex-1 flex-col">
        <ul
          className="grid min-h-0 flex-1 grid-cols-[repeat(auto-fill,minmax(290px,1fr))] content-start gap-x-6 gap-y-7 overflow-y-auto px-8 py-6"
          aria-label="Projects"
        >
          {shown.map((p) => (
            <Card key={p.id} card={p} onRemoved={() => setGone(p)} />
          ))}
          {wanted === "" && !projects.some((p) => p.name === EXAMPLE) && (
            <li>
              <button
                className="grid aspect-video w-full place-content-center rounded-[3px] border border-dashed border-rule p-4 text-center text-ink-2 hover:border-ink hover:text-ink disabled:opacity-50"
                disabled={adding}
                onClick={() => {
                  setAdding(true);
                  void addExample().finally(() => setAdding(false));
                }}
              >
                <span className="font-[650]">Add {EXAMPLE}</span>
                <span className="max-w-[32ch]">
                  An example: a furnished flat over a river town, with plain walls, curtains and
                  coves. It is built in about half a minute.
                </span>
              </button>
            </li>
          )}
          {shown.length === 0 && (
            <li className="col-span-full max-w-[46ch] pt-10 text-title text-ink-2">
              {projects.length
                ? "No project or look has this name."
                : "No project yet. Make a new one and bring in a building, or open a project file. Either can be dropped here."}
            </li>
          )}
        </ul>
      </main>
    </div>
  );
}

/** When something was changed, as one says it. */
function since(at: string) {
  const days = (Date.now() - new Date(at).getTime()) / 86_400_000;
  if (days < 1 / 24) return "changed within the hour";
  if (days < 1) return `changed ${Math.round(days * 24)} h ago`;
  if (days < 14) return `changed ${Math.round(days)} day${Math.round(days) === 1 ? "" : "s"} ago`;
  return `changed ${new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`;
}

function Card({ card: p, onRemoved }: { card: ProjectCard; onRemoved: () => void }) {
  const [naming, setNaming] = useState(false);
  const [asking, setAsking] = useState(false);
  return (
    <li aria-label={p.name}>
      <button
        className="block aspect-video w-full overflow-hidden bg-mount-2 outline-1 outline-rule hover:outline-2 hover:outline-ink"
        aria-label={`Open ${p.name}${p.picture ? "" : ": no picture yet"}`}
        onClick={() => void enter(p.id)}
      >
        {p.picture ? (
          <img
            src={`/api/projects/${p.id}/pictures/${p.picture[0]}/${p.picture[1]}`}
            alt=""
            className="h-full w-full object-cover"
          />
        ) : (
          <span className="grid h-full place-items-center text-on-mount-2">no picture yet</span>
        )}
      </button>
      <div className="mt-2 flex items-baseline justify-between gap-3">
        {naming ? (
          <input
            className="entry min-w-0 flex-1 font-[650]"
            aria-label={`Name of ${p.name}`}
            defaultValue={p.name}
            maxLength={200}
            autoFocus
            onFocus={(e) => e.target.select()}
            onBlur={(e) => {
              setNaming(false);
              void rename(p, e.target.value);
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter") e.currentTarget.blur();
              if (e.key === "Escape") {
                e.currentTarget.value = p.name;
                e.currentTarget.blur();
              }
            }}
          />
        ) : (
          <h2 className="truncate text-title font-[650]">{p.name}</h2>
        )}
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <button className="quiet px-1" aria-label={`More for ${p.name}`}>
              More ▾
            </button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" sideOffset={4} className={MENU}>
              <Item onSelect={() => setNaming(true)}>Rename</Item>
              <Item onSelect={() => void duplicate(p)}>Duplicate</Item>
              <Item onSelect={() => location.assign(`/api/projects/${p.id}/file.zip`)}>
                Export as one file
              </Item>
              <Item onSelect={() => setAsking(true)}>Remove …</Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
      <p className="truncate text-ink-2">{p.looks.length ? p.looks.join(" · ") : "no looks"}</p>
      <p className="text-small text-ink-2">{since(p.changed_at)}</p>
      <AlertDialog.Root open={asking} onOpenChange={setAsking}>
        <AlertDialog.Portal>
          <AlertDialog.Overlay className="fixed inset-0 z-30 bg-black/30" />
          <AlertDialog.Content className="fixed top-[30%] left-1/2 z-40 w-[380px] -translate-x-1/2 border border-ink bg-sheet p-5 text-ink">
            <AlertDialog.Title className="mb-2 text-title font-[650]">
              Remove {p.name}?
            </AlertDialog.Title>
            <AlertDialog.Description className="mb-4 text-ink-2">
              Its views, looks, lamps, proofs and stills go with it. You can bring it back until its
              space is freed.
            </AlertDialog.Description>
            <span className="flex justify-end gap-2">
              <AlertDialog.Cancel className="button">Keep it</AlertDialog.Cancel>
              <AlertDialog.Action
                className="button"
                onClick={() => void remove(p).then((done) => done && onRemoved())}
              >
                Remove
              </AlertDialog.Action>
            </span>
          </AlertDialog.Content>
        </AlertDialog.Portal>
      </AlertDialog.Root>
    </li>
  );
}

function Item({ onSelect, children }: { onSelect: () => void; children: string }) {
  return (
    <DropdownMenu.Item className={MENU_ITEM} onSelect={onSelect}>
      {children}
    </DropdownMenu.Item>
  );
}

interface NewProjectProps {
  /** A building that was dropped on the page. */
  dropped: File | null;
  onDone: () => void;
}

/** Name, place and building of a new project; the last two can wait. */
function NewProject({ dropped, onDone }: NewProjectProps) {
  const { buildings } = useVocabulary();
  const [open, setShown] = useState(!!dropped);
  const [name, setName] = useState("");
  const [town, setTown] = useState<Town | null>(null);
  const [building, setBuilding] = useState<File | null>(dropped);
  const setOpen = (shown: boolean) => {
    setShown(shown);
    if (!shown) onDone();
  };
  const go = (e: React.FormEvent) => {
    e.preventDefault();
    setOpen(false);
    void begin({ name: name.trim() || "New building", town, building });
    setName("");
    setTown(null);
    setBuilding(null);
  };
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="button">New project …</Dialog.Trigger>
      <Dialogue title="New project">
        <form onSubmit={go} className="flex flex-col gap-3">
          <Row label="Name">
            <input
              className="entry"
              placeholder="New building"
              maxLength={200}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </Row>
          <div className="grid grid-cols-[var(--label)_1fr] items-start gap-2">
            <span className="pt-[3px] text-ink-2">Place</span>
            <div>
              {town ? (
                <p>
                  {town.name}, {town.country}{" "}
                  <button type="button" className="quiet underline" onClick={() => setTown(null)}>
                    another
                  </button>
                </p>
              ) : (
                <>
                  <TownSearch onTake={setTown} />
                  <p className="text-small text-ink-2">Can wait: Site has it, too.</p>
                </>
              )}
            </div>
          </div>
          <Row label="Building" named>
            <span>
              {building ? (
                <span className="block">
                  {building.name}{" "}
                  <button
                    type="button"
                    className="quiet underline"
                    onClick={() => setBuilding(null)}
                  >
                    another
                  </button>
                </span>
              ) : (
                <FileButton
                  label="Building of the new project"
                  endings={buildings}
                  onFiles={([file]) => setBuilding(file ?? null)}
                >
                  Choose a file …
                </FileButton>
              )}
              <span className="block text-small text-ink-2">
                GLB, IFC, FBX, DAE …, or a zip with a model and its pictures. Can be dropped later.
              </span>
            </span>
          </Row>
          <span className="mt-1 flex justify-end gap-2">
            <Dialog.Close className="button" type="button">
              Cancel
            </Dialog.Close>
            <button className="button" type="submit">
              Make it
            </button>
          </span>
        </form>
      </Dialogue>
    </Dialog.Root>
  );
}
