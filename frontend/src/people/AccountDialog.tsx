import { Dialog } from "radix-ui";
import { Button } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { PasswordForm } from "./PasswordForm";
import { TokenList } from "./TokenList";
import type { Me } from "./useMe";

/** What belongs to whoever is signed in. */
export const AccountDialog = ({ me, onClose }: { me: Me; onClose: () => void }) => (
  <DialogFrame shape="middle" onClose={onClose}>
    <div className="flex items-center border-b border-line px-5 py-3">
      <Dialog.Title className="flex-1 font-semibold text-[15px]">{me.name}</Dialog.Title>
      <Button look="ghost" onClick={onClose}>
        Close
      </Button>
    </div>
    <div className="flex flex-col gap-6 overflow-y-auto p-5">
      <PasswordForm me={me} />
      <TokenList />
    </div>
  </DialogFrame>
);
