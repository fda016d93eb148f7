import { Component, type ReactNode, Suspense } from 'react';

/** Room for what is fetched when it is first shown. What cannot be fetched says so there, and takes nothing else with it. */
export class Later extends Component<{ children: ReactNode; fallback?: ReactNode }, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError(): { failed: boolean } {
    return { failed: true };
  }

  override render(): ReactNode {
    const { children, fallback = null } = this.props;
    if (!this.state.failed) return <Suspense fallback={fallback}>{children}</Suspense>;
    return (
      <p role="alert" className="p-4 text-sm">
        This part of the page could not be fetched. What was decided is kept; load the page again when the server is back.
      </p>
    );
  }
}
