import type { Brought } from "./api";

/** MODELS are the endings of files that hold a model or a rig by themselves; all others belong to one of them. */
const MODELS = /\.(obj|glb|gltf|json|zip)$/i;

/** ACCEPTED is what a file dialog offers. */
export const ACCEPTED = ".obj,.glb,.gltf,.json,.zip,.bin,.mtl,.png,.jpg,.jpeg";

type Placed = Brought["main"];

/** broughtOf tells models from what belongs to them: each is sent with all files that are none. Without a model, what there is goes as it is, to be told about. */
export function broughtOf(files: Placed[]): Brought[] {
  const mains = files.filter((f) => MODELS.test(f.path));
  const beside = files.filter((f) => !MODELS.test(f.path));
  const [first, ...rest] = files;
  if (mains.length === 0) return first ? [{ main: first, beside: rest }] : [];
  return mains.map((main) => ({ main, beside }));
}

/** ofInput is what a file dialog gave. */
export const ofInput = (list: FileList | null): Brought[] =>
  broughtOf([...(list ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file })));

/** ofDrop is what was dropped, folders with all that is in them. */
export async function ofDrop(dropped: DataTransfer): Promise<Brought[]> {
  const entries = [...dropped.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  if (entries.length === 0) return broughtOf([...dropped.files].map((file) => ({ path: file.name, file })));
  return broughtOf((await Promise.all(entries.map(filesIn))).flat());
}

async function filesIn(entry: FileSystemEntry): Promise<Placed[]> {
  const path = entry.fullPath.replace(/^\//, "");
  if (entry.isFile) {
    const file = await new Promise<File>((done, failed) => (entry as FileSystemFileEntry).file(done, failed));
    return [{ path, file }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: Placed[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed)); // a hundred at a time
    if (some.length === 0) return found;
    found.push(...(await Promise.all(some.map(filesIn))).flat());
  }
}
