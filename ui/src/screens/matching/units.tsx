import { chakra } from "@chakra-ui/react";
import { useForm } from "react-hook-form";
import { Button, Input, Key, Quiet } from "../../parts/controls";
import { Form } from "../../parts/form";

export type Units = { bought: number; listed: number };

type UnitsProps = {
  bought: number;
  listed: number;
  label: string;
  onSay: (u: Units) => void;
  onClose: () => void;
};

/** UnitsForm asks how many single units are in either side. */
export function UnitsForm({ bought, listed, label, onSay, onClose }: UnitsProps) {
  const form = useForm({ defaultValues: { bought: bought || 1, listed: listed || 1 } });
  const whole = { valueAsNumber: true, min: 1, max: 10_000, required: true };
  return (
    <Form
      form={form}
      focus
      label={label}
      onSubmit={form.handleSubmit(onSay)}
      onKeyDown={(e) => e.key === "Escape" && onClose()}
      display="flex"
      gap="3"
      alignItems="center"
      bg="band"
      rounded="5px"
      px="3"
      py="2"
      mb="2"
    >
      <chakra.strong>How many single units?</chakra.strong>
      <chakra.label display="flex" gap="2" alignItems="center">
        in the supplier's item
        <Input w="64px" h="28px" figures inputMode="numeric" {...form.register("bought", whole)} />
      </chakra.label>
      <chakra.label display="flex" gap="2" alignItems="center">
        in what the entry sells
        <Input w="64px" h="28px" figures inputMode="numeric" {...form.register("listed", whole)} />
      </chakra.label>
      <Button type="submit" look="main" size="small">
        It is, so many <Key>Enter</Key>
      </Button>
      <Button size="small" onClick={onClose}>
        Esc
      </Button>
      {!form.formState.isValid && form.formState.isSubmitted && (
        <Quiet color="loss">Whole numbers from 1 to 10 000</Quiet>
      )}
    </Form>
  );
}
