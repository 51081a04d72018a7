import { Component, type ReactNode } from "react";
import { useLocation } from "react-router";

/** Keeps the frame standing where a view fails; another address has another view, which is tried. */
export function ViewBoundary({ children }: { children: ReactNode }): ReactNode {
  return <Boundary at={useLocation().pathname}>{children}</Boundary>;
}

interface BoundaryProps {
  readonly at: string;
  readonly children: ReactNode;
}

class Boundary extends Component<BoundaryProps, { failure: Error | null }> {
  override state: { failure: Error | null } = { failure: null };

  static getDerivedStateFromError(failure: Error): { failure: Error } {
    return { failure };
  }

  override componentDidUpdate(before: BoundaryProps): void {
    if (this.state.failure && before.at !== this.props.at) this.setState({ failure: null });
  }

  override render(): ReactNode {
    const { failure } = this.state;
    if (!failure) return this.props.children;
    return (
      <section role="alert" className="max-w-prose">
        <h1 className="text-xl font-bold">This view failed</h1>
        <p className="mt-2">Nothing that is stored is touched by it. The reason: {failure.message}</p>
        {/* Code that did not come is asked for again by a page that is loaded anew. */}
        {failure.name === "ViewNotLoaded" ? (
          <button type="button" className="act mt-4" onClick={() => location.reload()}>
            Load the page again
          </button>
        ) : (
          <button type="button" className="act mt-4" onClick={() => this.setState({ failure: null })}>
            Draw it again
          </button>
        )}
      </section>
    );
  }
}
