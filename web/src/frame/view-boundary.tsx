import { Component, type ReactNode } from "react";

/** Keeps the frame standing where a view fails. */
export class ViewBoundary extends Component<{ children: ReactNode }, { failure: Error | null }> {
  override state: { failure: Error | null } = { failure: null };

  static getDerivedStateFromError(failure: Error): { failure: Error } {
    return { failure };
  }

  override render(): ReactNode {
    if (!this.state.failure) return this.props.children;
    return (
      <section role="alert" className="max-w-prose">
        <h1 className="text-xl font-bold">This view failed</h1>
        <p className="mt-2">Nothing that is stored is touched by it. The reason: {this.state.failure.message}</p>
        <button type="button" className="act mt-4" onClick={() => this.setState({ failure: null })}>
          Draw it again
        </button>
      </section>
    );
  }
}
