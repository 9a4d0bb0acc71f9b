import { Button, type ButtonProps } from "@mantine/core";
import { createLink } from "@tanstack/react-router";
import { type AnchorHTMLAttributes, forwardRef } from "react";

type AnchorProps = ButtonProps & Omit<AnchorHTMLAttributes<HTMLAnchorElement>, keyof ButtonProps>;

const Anchor = forwardRef<HTMLAnchorElement, AnchorProps>(function Anchor(props, ref) {
  return <Button component="a" ref={ref} {...props} />;
});

/** A link that looks like a button; knows the routes and what they search for. */
export const LinkButton = createLink(Anchor);
