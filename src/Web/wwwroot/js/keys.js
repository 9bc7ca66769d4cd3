// What a key means, whatever the keyboard: with Caps Lock, and where Option gives a letter another character.

/** The letter that is pressed together with Alt; null when none is. */
export function letterWithAlt(e) {
  if (!e.altKey || e.ctrlKey || e.metaKey) return null;
  const letter = e.key.toLowerCase();
  if (/^[a-z]$/.test(letter)) return letter;
  return /^Key[A-Z]$/.test(e.code ?? "") ? e.code[3].toLowerCase() : null;
}
