// Phones and other machines that are let in, and a copy of the whole yard.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type DeviceView, type PairingCode } from "../../lib/api";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";
import { moment } from "../../lib/format";

/** A code, as a picture for the camera and as letters to type. */
function Code({ made }: { made: PairingCode }) {
  return (
    <div className="mt-4 grid max-w-3xl items-start gap-6 border-2 border-ink p-4 sm:grid-cols-[13rem_1fr]">
      {made.qr && (
        <svg
          viewBox={`-4 -4 ${made.qr.side + 8} ${made.qr.side + 8}`}
          role="img"
          aria-label="The address with the code, for the phone's camera"
          className="w-full"
          shapeRendering="crispEdges"
        >
          <rect x={-4} y={-4} width={made.qr.side + 8} height={made.qr.side + 8} fill="#fff" />
          <path d={made.qr.path} fill="#000" />
        </svg>
      )}
      <div>
        {made.address ? (
          <ol className="list-decimal pl-5 text-lg">
            <li>Point the phone’s camera at the picture and open what it reads.</li>
            <li>
              Or open <b className="reading">{made.address}/pair</b> and type the code:
            </li>
          </ol>
        ) : (
          <p className="text-lg">
            Other machines cannot reach this one yet. Start it with the address and the name by which they
            find it (see “Phones and other machines” in the README). On this machine, open{" "}
            <b className="reading">/pair</b> in another browser and type the code:
          </p>
        )}
        <p className="reading mt-2 text-4xl" data-testid="code">
          {made.code}
        </p>
        <p className="mt-1 text-soft">
          Valid for {made.minutes} minutes, for one device. Five wrong tries make it void.
        </p>
      </div>
    </div>
  );
}

function DeviceLine({ device }: { device: DeviceView }) {
  const client = useQueryClient();
  const out = useMutation({
    mutationFn: () => api.revokeDevice(device.id),
    onSuccess: () => client.invalidateQueries({ queryKey: ["devices"] }),
  });
  return (
    <li className="flex flex-wrap items-center justify-between gap-x-6 border-b border-rule py-1.5">
      <span>
        <b className="sign text-lg">{device.name}</b>
        {device.this_one && " (this device)"}
        <span className="block text-[0.95rem] text-soft">
          used last {moment(device.used_at)}, paired {moment(device.made_at)}
        </span>
      </span>
      <button type="button" className="btn" disabled={out.isPending} onClick={() => out.mutate()}>
        Shut it out<span className="sr-only">: {device.name}</span>
      </button>
      {out.error && <Trouble error={out.error} />}
    </li>
  );
}

/** How a phone comes to trust this machine. */
function Trust() {
  return (
    <section className="mt-8 max-w-3xl">
      <h2 className="stretch">Once: let the phone trust this machine</h2>
      <p className="py-1">
        The camera, working without a connection and installing on the home screen need a connection that the
        phone trusts. This yard has an authority of its own; a phone that trusts it trusts this machine and no
        other.
      </p>
      <ol className="list-decimal pl-5">
        <li>
          On the phone, open this page’s address with <b className="reading">/api/authority</b> behind it, and
          accept the warning this one time; or send it the file below.
        </li>
        <li>
          Open the file and install it as a certificate authority. Some phones then ask to switch it on in
          their settings, where certificates are trusted.
        </li>
        <li>Open the address again: the warning is gone.</li>
      </ol>
      <a className="btn mt-3" href="/api/authority" download="ticksage-authority.crt">
        The authority’s certificate
      </a>
    </section>
  );
}

export function Devices() {
  const access = useQuery({ queryKey: ["access"], queryFn: api.access });
  const devices = useQuery({ queryKey: ["devices"], queryFn: api.devices, refetchInterval: 10_000 });
  const code = useMutation({ mutationFn: api.pairingCode });
  const [ranOut, setRanOut] = useState<string | null>(null);
  const made = code.data;
  const old = made !== undefined && ranOut === made.code;
  useEffect(() => {
    if (!made) return;
    const timer = setTimeout(() => setRanOut(made.code), made.minutes * 60_000);
    return () => clearTimeout(timer);
  }, [made]);
  return (
    <Page title="Phones and copies" lead="Who is let into this yard, and a copy of all of it.">
      <section className="mt-5 max-w-4xl">
        <h2 className="stretch">Phones and other machines</h2>
        <p className="py-1">
          Whoever sits at this machine is let in without a code, unless it was started with a key. Every other
          device is paired once, and can be shut out here at any moment.
        </p>
        {devices.error && <Trouble error={devices.error} />}
        {devices.data?.length === 0 && <p className="py-1 text-lg">No other device is paired.</p>}
        <ul>
          {devices.data?.map((d) => (
            <DeviceLine key={d.id} device={d} />
          ))}
        </ul>
        <button
          type="button"
          className="btn btn-main mt-4"
          disabled={code.isPending}
          onClick={() => code.mutate()}
        >
          {made ? "Another code" : "Pair a phone"}
        </button>
        {code.error && <Trouble error={code.error} />}
        {made && !old && <Code made={made} />}
        {old && (
          <p role="status" className="mt-3 text-lg">
            The code has run out. Ask for another.
          </p>
        )}
      </section>
      {access.data?.authority && <Trust />}
      <section className="mt-8 max-w-4xl">
        <h2 className="stretch">A copy of the whole yard</h2>
        <p className="py-1">
          One file with every candidate, its papers, findings and photos, as it stands now. Keep it on another
          disk. It is put back into an empty yard with <b className="reading">ticksage restore</b>.
        </p>
        <a className="btn mt-2" href="/api/backup" download>
          Back up now
        </a>
      </section>
    </Page>
  );
}
