import { api } from '../api.ts';

/** Who is signed in, and the ways out. */
export function SignedIn({ name }: { name: string }) {
  const leave = (everywhere: boolean) => void api.signOut(everywhere).finally(() => location.assign('/sign-in'));
  return (
    <span className="flex items-center gap-1 text-sm">
      <bdi className="mr-1 max-w-40 truncate">{name}</bdi>
      <button type="button" className="btn btn-ghost btn-sm" onClick={() => leave(false)}>
        Sign out
      </button>
      <button
        type="button"
        className="btn btn-ghost btn-sm"
        title="Ends all sessions of everybody, on all machines"
        onClick={() => leave(true)}
      >
        Sign out everywhere
      </button>
    </span>
  );
}
