/** A dialog with a title, closed by Escape or its button. */
import { X } from "lucide-react";
import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { inMain } from "./inMain";

interface Props {
  readonly title: string;
  readonly about?: string;
  readonly children: ReactNode;
  close(): void;
}

export function Dialog({ title, about, children, close }: Props) {
  return (
    <Radix.Root open onOpenChange={(isOpen) => !isOpen && close()}>
      <Radix.Portal container={inMain()}>
        <Radix.Overlay className="veil" />
        <Radix.Content className="dialog" {...(about === undefined ? { "aria-describedby": undefined } : {})}>
          <header>
            <Radix.Title>{title}</Radix.Title>
            <Radix.Close className="plain" aria-label="Close">
              <X aria-hidden />
            </Radix.Close>
          </header>
          {about !== undefined && <Radix.Description>{about}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
