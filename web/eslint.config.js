import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

// Imports run one way: lib, charts, parts, screens. A screen imports from no other screen's folder.
const above = {
  lib: ["charts", "parts", "screens"],
  charts: ["parts", "screens"],
  parts: ["screens"],
};

const room = (folder, patterns) => ({
  files: [`src/${folder}/**/*.{ts,tsx}`],
  rules: { "no-restricted-imports": ["error", { patterns }] },
});

export default tseslint.config(
  { ignores: ["dist", "src/generated"] },
  ...tseslint.configs.strict,
  hooks.configs.flat.recommended,
  ...Object.entries(above).map(([folder, list]) =>
    room(
      folder,
      list.map((name) => ({
        regex: `/${name}/`,
        message: `${folder}/ lies below ${name}/ and imports nothing from it.`,
      })),
    ),
  ),
  room("screens", [
    { regex: "^\\.\\./(?!\\.\\./)", message: "What two screens share belongs in lib/, charts/ or parts/." },
  ]),
  {
    rules: { "max-lines": ["error", { max: 500 }] },
  },
);
