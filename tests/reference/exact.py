"""Runs another script of this folder and gives what it prints with every whole number of more than 15 digits as text, so that no reader rounds it."""
import json, os, subprocess, sys

asked = json.load(sys.stdin)
script = os.path.join(os.path.dirname(os.path.abspath(__file__)), asked.pop('script'))
done = subprocess.run([sys.executable, script], input=json.dumps(asked), capture_output=True, text=True)
if done.returncode != 0: sys.exit(done.stderr)
print(json.dumps(json.loads(done.stdout, parse_int=lambda digits: digits if len(digits) > 15 else int(digits))))
