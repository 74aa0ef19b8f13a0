import { Component, type ReactNode } from "react";

interface Props {
  /** What has stopped, for the message: "The score". */
  readonly what: string;
  /** Ways on beside showing it again. */
  readonly actions?: ReactNode;
  readonly children: ReactNode;
}

/** Keeps a failure within its view: the rest of the page goes on. */
export class ErrorBoundary extends Component<Props, { readonly error: Error | null }> {
  override state: { readonly error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error): { error: Error } {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <div className="flex flex-col items-start gap-2 bg-sheet p-4" role="alert">
        <p>
          <span className="mr-2 inline-block h-2 w-2 bg-warn" aria-hidden />
          {this.props.what} cannot be shown: {error.message}. Your work is as it was; undo what came last, or save it as
          a file.
        </p>
        <div className="flex gap-2">
          <button type="button" className="chip" onClick={() => this.setState({ error: null })}>
            Show it again
          </button>
          {this.props.actions}
        </div>
      </div>
    );
  }
}
