interface Props {
  readonly label?: string;
  readonly value: string;
  readonly languages: readonly string[];
  readonly className: string;
  readonly onChoose: (tag: string) => void;
}

/** A choice of languages, each in its own name. */
export function LanguageSelect({ label = 'Language', value, languages, className, onChoose }: Props) {
  return (
    <label className="text-xs">
      {label}
      <select className={`select select-xs flex ${className}`} value={value} onChange={(event) => onChoose(event.target.value)}>
        {languages.map((tag) => (
          <option key={tag} value={tag}>
            {languageName(tag)}
          </option>
        ))}
      </select>
    </label>
  );
}

/** A language in its own name. */
export function languageName(tag: string): string {
  try {
    return new Intl.DisplayNames([tag], { type: 'language' }).of(tag) ?? tag;
  } catch {
    return tag;
  }
}
