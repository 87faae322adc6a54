import { Button } from "../../design/Button";
import { Menu } from "../../design/Menu";
import { useNotices } from "../../design/Notices";
import { asPng, download } from "../../marks/picture";

interface Props {
  /** The picture as SVG with its caption; nothing while it is not drawn. */
  svg: () => string | null;
  /** The figures behind it, as lines of CSV. */
  csv?: () => string;
  name: string;
}

/** Save or copy a picture, with its caption and seals, or the figures behind it. */
export function SavePicture({ svg, csv, name }: Props) {
  const { tell, warn } = useNotices();
  const withPicture = (use: (drawn: string) => Promise<void>) => () => {
    const drawn = svg();
    if (!drawn) warn("There is no picture yet.");
    else use(drawn).catch((error: Error) => warn(error.message));
  };
  const items = [
    {
      label: "Save as SVG",
      act: withPicture(async (drawn) =>
        download(new Blob([drawn], { type: "image/svg+xml" }), `${name}.svg`),
      ),
    },
    { label: "Save as PNG", act: withPicture(async (drawn) => download(await asPng(drawn), `${name}.png`)) },
    {
      label: "Copy as PNG",
      act: withPicture(async (drawn) => {
        await navigator.clipboard.write([new ClipboardItem({ "image/png": asPng(drawn) })]);
        tell("The picture is on the clipboard.");
      }),
    },
    ...(csv
      ? [
          {
            label: "Save the figures as CSV",
            act: () => download(new Blob([csv()], { type: "text/csv" }), `${name}.csv`),
          },
        ]
      : []),
  ];
  return (
    <Menu
      label="Save picture, or copy it"
      items={items}
      trigger={<Button kind="link">Save picture</Button>}
    />
  );
}
