import Button from "@mui/material/Button";
import { useState } from "react";
import { answered, NoLink, wire } from "../../api/client";

/** A fix of one's position: by this device, or a simulated one to practise with, which says so. */
export function WhereIAm({ take }: { take: (place: string) => void }) {
  const [told, setTold] = useState("");
  const here = () => {
    setTold("");
    if (!navigator.geolocation) {
      setTold("This device gives no position here: type the place.");
      return;
    }
    navigator.geolocation.getCurrentPosition(
      (p) => {
        take(`${p.coords.latitude.toFixed(5)}, ${p.coords.longitude.toFixed(5)}`);
        setTold(`A fix within ${Math.ceil(p.coords.accuracy)} m.`);
      },
      (e) => setTold(`No fix (${e.message || "not allowed"}): type the place.`),
      { enableHighAccuracy: true, timeout: 15000 },
    );
  };
  const practise = async () => {
    setTold("");
    try {
      const fix = await answered(wire.GET("/api/fix"));
      take(fix.place);
      setTold(`${fix.simulated ? "A simulated fix" : "A fix"} within ${fix.accuracy_m} m, ${fix.locator}.`);
    } catch (e) {
      setTold(e instanceof NoLink ? "No connection: type the place." : (e as Error).message);
    }
  };
  return (
    <div className="row">
      <Button variant="outlined" onClick={here}>
        Use my position
      </Button>
      <Button variant="outlined" onClick={() => void practise()}>
        A simulated fix
      </Button>
      <span role="status" className="small">
        {told}
      </span>
    </div>
  );
}
