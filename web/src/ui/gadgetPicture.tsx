// A gadget's own picture, which the core draws for a light and for a dark page; paper is light.
import { useDark } from "./theme";

export function GadgetPicture({ light, dark, width }: { light: string; dark: string; width: number }) {
  const isDark = useDark();
  const shown = (svg: string, when: string) => (
    <img
      src={`data:image/svg+xml,${encodeURIComponent(svg)}`}
      alt=""
      width={width}
      height={(width * 2) / 3}
      className={when}
    />
  );
  if (!isDark) return shown(light, "");
  return (
    <>
      {shown(dark, "print:hidden")}
      {shown(light, "hidden print:block")}
    </>
  );
}
