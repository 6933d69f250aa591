import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(js.configs.recommended, ...ts.configs.strict, a11y.flatConfigs.strict, {
  files: ["src/**/*.{ts,tsx}"],
  plugins: { "react-hooks": hooks },
  rules: {
    "react-hooks/rules-of-hooks": "error",
    "react-hooks/exhaustive-deps": "error",
    // The controls that our own labels stand around.
    "jsx-a11y/label-has-associated-control": [
      "error",
      { assert: "either", depth: 4, controlComponents: ["Tick", "Switch", "Select", "NumberField", "ColourField"] },
    ],
    // A dialog opens with the keyboard in its first field: that is what it was opened for.
    "jsx-a11y/no-autofocus": "off",
    // Pictures are worked in by pointer; whatever is done there is in the panels by keyboard too.
    "jsx-a11y/no-interactive-element-to-noninteractive-role": ["error", { canvas: ["img"] }],
    "jsx-a11y/no-static-element-interactions": [
      "error",
      { handlers: ["onClick", "onKeyDown", "onKeyUp", "onKeyPress"] },
    ],
  },
});
