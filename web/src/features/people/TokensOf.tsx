// What becomes of the tokens that somebody made for devices, once they manage the site no more.
import { Radio, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api";
import { devicesQuery } from "../weather/queries";

export type Tokens = Schemas["Tokens"];

/** The devices whose tokens a member made; `undefined` while that is not known. */
export function useTokensOf(site: string, account: number | undefined, asked: boolean) {
  const devices = useQuery({ ...devicesQuery(site), enabled: asked });
  return devices.data?.filter((device) => device.maker === account);
}

type Props = { name: string; devices: Schemas["DeviceView"][]; value: Tokens; onChange: (tokens: Tokens) => void };

export function TokensOf({ name, devices, value, onChange }: Props) {
  if (devices.length === 0) return null;
  const names = devices.map((device) => device.name).join(", ");
  return (
    <Radio.Group
      label={`${name} made the token of ${names}`}
      description="Whoever has a token can send rain that counts."
      value={value}
      onChange={(chosen) => onChange(chosen as Tokens)}
    >
      <Stack gap="xs" mt="xs">
        <Radio value="end" label={devices.length === 1 ? "It ends" : "They end"} />
        <Radio
          value="take_over"
          label={devices.length === 1 ? "I answer for it from now on" : "I answer for them from now on"}
        />
      </Stack>
      {value === "end" && (
        <Text mt="xs" size="sm" className="quiet">
          What is sent with {devices.length === 1 ? "it" : "them"} after that is refused: make a new token for the
          device.
        </Text>
      )}
    </Radio.Group>
  );
}
