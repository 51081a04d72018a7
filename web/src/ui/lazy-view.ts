import { type ComponentType, lazy, type LazyExoticComponent } from "react";

/** Code of the interface did not come: the server is away, or has another version by now. */
class ViewNotLoaded extends Error {
  override readonly name = "ViewNotLoaded";

  constructor(cause: unknown) {
    super("its code could not be loaded. The server may be away, or have a newer version by now.", { cause });
  }
}

/**
 * A view, or a part that is seldom shown, whose code is loaded when it is shown for the first time, out of a module that
 * exports it under its name. It stands within a Suspense; while another view is shown, that one stays until it has come.
 */
export function lazyView<Name extends string, Props extends object>(
  load: () => Promise<Readonly<Record<Name, ComponentType<Props>>>>,
  name: Name,
): LazyExoticComponent<ComponentType<Props>> {
  return lazy(async () => {
    try {
      return { default: (await load())[name] };
    } catch (cause) {
      throw new ViewNotLoaded(cause);
    }
  });
}
