import { Fragment, type ReactNode } from "react";
import Markdown, { type Components } from "react-markdown";
import remarkGfm from "remark-gfm";
import type { NoteFigure } from "../../../../../core/dashboards/note-parts.ts";

interface NoteTextProps {
  readonly text: string;
  readonly split: (text: string) => readonly (string | NoteFigure)[];
  readonly figure: (figure: NoteFigure) => ReactNode;
}

interface TreeNode {
  type: string;
  value?: string;
  children?: TreeNode[];
  data?: { hName: string; hProperties: Readonly<Record<string, string>> };
}

const isTask = (className: string | undefined): boolean => className?.includes("task-list-item") ?? false;
const plugins = [remarkGfm];
const looks = { h: "mt-2 mb-1 font-bold first:mt-0", p: "my-1.5 first:mt-0" } as const;

/**
 * Markdown as elements; HTML in it stays text, addresses that could run something lead nowhere, pictures from elsewhere
 * are not fetched.
 */
export default function NoteText({ text, split, figure }: NoteTextProps): ReactNode {
  const withFigures = () => (tree: TreeNode) => replaceFigures(tree, split);
  const components: Components = {
    h1: ({ children }) => <h3 className={`${looks.h} text-[17px]`}>{children}</h3>,
    h2: ({ children }) => <h3 className={`${looks.h} text-[15.5px]`}>{children}</h3>,
    h3: ({ children }) => <h4 className={looks.h}>{children}</h4>,
    p: ({ children }) => <p className={looks.p}>{children}</p>,
    ul: ({ children }) => <ul className="my-1.5 list-disc pl-5">{children}</ul>,
    // A box stands in the place of a bullet, not beside it.
    li: ({ className, children }) => <li className={isTask(className) ? "-ml-5 list-none" : ""}>{children}</li>,
    ol: ({ children }) => <ol className="my-1.5 list-decimal pl-5">{children}</ol>,
    a: ({ href, children }) => (
      <a href={href} className="word-link" rel="noreferrer noopener">
        {children}
      </a>
    ),
    code: ({ children }) => <code className="figure text-[0.92em]">{children}</code>,
    blockquote: ({ children }) => (
      <blockquote className="my-1.5 border-l-2 border-hairline pl-3 text-quiet">{children}</blockquote>
    ),
    table: ({ children }) => (
      <table className="my-1.5 text-[13.5px] [&_td]:border-t [&_td]:border-hairline [&_td]:pr-4 [&_th]:pr-4 [&_th]:text-left">
        {children}
      </table>
    ),
    hr: () => <hr className="my-2 border-hairline" />,
    img: ({ alt, src }) => (
      <span className="text-quiet">
        {alt || "picture"} ({String(src ?? "")})
      </span>
    ),
    input: ({ checked }) => (
      <>
        <span aria-hidden="true">{checked ? "☑" : "☐"}</span>
        <span className="sr-only">{checked ? "done:" : "to do:"}</span>
      </>
    ),
    data: (props) => {
      const given = props as Readonly<Record<string, unknown>>;
      return (
        <Fragment>
          {figure({
            name: String(given["data-name"]),
            shows: given["data-shows"] as NoteFigure["shows"],
            isPercent: given["data-percent"] !== undefined,
          })}
        </Fragment>
      );
    },
  };
  return (
    <Markdown remarkPlugins={[...plugins, withFigures]} components={components}>
      {text}
    </Markdown>
  );
}

/** Texts with live figures in them become their parts; what stands in code stays as it was written. */
function replaceFigures(node: TreeNode, split: NoteTextProps["split"]): void {
  if (!node.children) return;
  node.children = node.children.flatMap((child): TreeNode[] => {
    if (child.type !== "text") {
      replaceFigures(child, split);
      return [child];
    }
    return split(child.value ?? "").map((part) =>
      typeof part === "string"
        ? { type: "text", value: part }
        : {
            type: "figure",
            children: [],
            data: {
              hName: "data",
              hProperties: {
                "data-name": part.name,
                "data-shows": part.shows,
                ...(part.isPercent ? { "data-percent": "yes" } : {}),
              },
            },
          },
    );
  });
}
