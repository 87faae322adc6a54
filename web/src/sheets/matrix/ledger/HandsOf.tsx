import { useSession } from "../../../api/session";
import { Field } from "../../../design/Field";
import { Popover } from "../../../design/Popover";
import { useHands } from "../../../docket/hand/hands";

/** Who ran what is typed, and the way to name somebody else. */
export function HandsOf() {
  const [hands, setHands] = useHands();
  const { display_name } = useSession();
  const words = `run by ${hands.ranBy || display_name}${hands.helpedBy && ` with ${hands.helpedBy}`}`;
  return (
    <Popover
      label={`${words}; name somebody else`}
      trigger={
        <button type="button" className="text-note text-quiet underline decoration-line">
          {words}
        </button>
      }
    >
      <div className="w-72">
        <Field label="Run by" hint="Whoever stood at the machine, where that was not you.">
          <input
            value={hands.ranBy}
            maxLength={120}
            onChange={(event) => setHands({ ...hands, ranBy: event.target.value })}
          />
        </Field>
        <Field label="With" hint="Who helped, or ran it elsewhere.">
          <input
            value={hands.helpedBy}
            maxLength={200}
            onChange={(event) => setHands({ ...hands, helpedBy: event.target.value })}
          />
        </Field>
      </div>
    </Popover>
  );
}
