import { Component, type ReactNode } from "react";

interface Props {
  /** What the region is called: "The … could not be shown." */
  name: string;
  className?: string;
  children: ReactNode;
}

/** A region of the page: a fault in it costs this region until it is shown again, never the page. */
export class Region extends Component<Props, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override componentDidCatch(error: unknown) {
    console.error(`fault in the ${this.props.name}`, error);
  }

  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <p role="alert" className={`p-4 ${this.props.className ?? ""}`}>
        The {this.props.name} could not be shown. Everything you did is saved.{" "}
        <button className="underline" onClick={() => this.setState({ failed: false })}>
          Show it again
        </button>
      </p>
    );
  }
}
