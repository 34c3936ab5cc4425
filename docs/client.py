"""Record, set, predict, fit, export: Imbrix from a script. Start `make demo`, then `python docs/client.py`."""

import sys
import time

import httpx


def main(address: str = "http://127.0.0.1:8642", slug: str = "wren") -> str:
    """Take one driver, cross it over, fit it to the target, and return the tune as CSV."""
    with httpx.Client(base_url=f"{address}/api", timeout=60) as api:

        def ask(method: str, path: str, **more: object) -> httpx.Response:
            answer = api.request(method, f"/projects/{slug}{path}", **more)
            if answer.is_error:
                raise SystemExit(answer.json()["detail"])  # a sentence, after RFC 9457
            return answer

        ask("POST", "/takes", json={"channels": ["mid-l"], "purpose": "driver"})
        while (job := api.get("/progress").json())["stage"] not in ("kept", "refused", "aborted"):
            time.sleep(0.1)
        print(f"take {job['take_id']}: {job['stage']} {job['message']}")
        on = ask("GET", "").json()["revision"]["id"]
        corner = {"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 320}
        ask("POST", "/edits", json={"edits": [corner], "on": on})
        shown = ask("GET", "/curves", params={"stage": "voice", "selection": "mid-l"}).json()
        print(f"before the fit: {shown['facts']['deviation']['plus_minus']:.1f} dB about the target")
        fit = ask("POST", "/fit", json={"channels": ["mid-l"]}).json()["fit"]
        print(f"{fit['bands']} bands leave {fit['residual_db']:.2f} dB rms")
        return ask("GET", "/export/settings.csv").text


if __name__ == "__main__":
    print(main(*sys.argv[1:]))
