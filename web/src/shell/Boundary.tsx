import { Component, type ReactNode } from "react";
import { Failed } from "./States";

interface Props {
  /** What is shown; a change of it, as when one goes elsewhere, is a new try. */
  place: string;
  children: ReactNode;
}

interface State {
  error: Error | null;
  place: string;
}

/** Catches what a screen could not handle, such as a part of the program that could not be loaded. */
export class Boundary extends Component<Props, State> {
  override state: State = { error: null, place: this.props.place };

  static getDerivedStateFromError(error: Error): Partial<State> {
    return { error };
  }

  static getDerivedStateFromProps(props: Props, state: State): Partial<State> | null {
    return props.place === state.place ? null : { place: props.place, error: null };
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    const words = /import|module/i.test(error.message)
      ? new Error("The server did not answer, so this screen could not be loaded.")
      : error;
    // A part that failed to load is not asked for again by the browser until the page is loaded anew.
    return <Failed error={words} again={() => window.location.reload()} />;
  }
}
