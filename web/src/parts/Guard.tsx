import { Component, type ReactNode } from "react";

/** A screen that fails says so and leaves the rest standing; what was typed is kept as a draft. */
export class Guard extends Component<{ children: ReactNode }, { broke?: Error }> {
  state: { broke?: Error } = {};
  static getDerivedStateFromError = (broke: Error) => ({ broke });
  render() {
    if (!this.state.broke) return this.props.children;
    return (
      <div className="note error" role="alert">
        This screen failed ({this.state.broke.message}). What you typed is kept.{" "}
        <button type="button" className="linkbtn" onClick={() => location.reload()}>
          Open it again
        </button>
      </div>
    );
  }
}
