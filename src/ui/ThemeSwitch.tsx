import { Moon, Sun } from 'lucide-react';
import { useState } from 'react';

const THEMES = ['paper', 'booth'] as const;

/** Changes between the light and the dark theme, for this browser. */
export function switchTheme(): (typeof THEMES)[number] {
  const next = document.documentElement.dataset.theme === 'booth' ? 'paper' : 'booth';
  document.documentElement.dataset.theme = next;
  localStorage.setItem('zetemis.theme', next);
  window.dispatchEvent(new Event('themechange'));
  return next;
}

export function ThemeSwitch() {
  const [theme, setTheme] = useState(() => document.documentElement.dataset.theme);
  const Icon = theme === 'booth' ? Sun : Moon;
  return (
    <button
      type="button"
      className="btn btn-ghost btn-sm btn-square"
      aria-label="Change theme"
      onClick={() => setTheme(switchTheme())}
    >
      <Icon size={17} aria-hidden />
    </button>
  );
}
