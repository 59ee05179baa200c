/** matches tells whether a name fits what was typed: with * or ? as wildcards the whole of it, without them any part of it. */
export function matches(typed: string, name: string): boolean {
  const text = typed.trim().toLowerCase();
  if (!/[*?]/.test(text)) return name.toLowerCase().includes(text);
  const pattern = text
    .replace(/[.+^${}()|[\]\\]/g, "\\$&")
    .replaceAll("*", ".*")
    .replaceAll("?", ".");
  return new RegExp(`^${pattern}$`).test(name.toLowerCase());
}
