"""Asks a running server for its page and for a picture of every demo shot; ends with an error where one is not there."""

import json
import re
import sys
import urllib.request

import cv2
import numpy as np

address = sys.argv[1]


def asked(path):
    with urllib.request.urlopen(address + path, timeout=60) as answer:
        return answer.read(), answer.headers


page = asked("/")[0].decode()
scripts = re.findall(r'src="(/assets/[^"]+\.js)"', page)
if not scripts or not all(len(asked(script)[0]) > 10_000 for script in scripts):
    sys.exit("the page has no script: was it built?")
shots = [shot for show in json.loads(asked("/api/shows")[0])["shows"] for shot in show["shots"]]
if not shots:
    sys.exit("there is no demo shot")
for shot in shots:
    head = json.loads(asked(f"/api/shots/{shot['id']}/head")[0])["revision"]
    data, headers = asked(f"/api/shots/{shot['id']}/thumb?revision={head}&frame=1001&scale=4")
    picture = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    if "X-Problem" in headers or picture is None or picture.std() < 10:
        sys.exit(f"shot {shot['name']!r} has no picture: {headers.get('X-Problem', 'it is flat')}")
    print(f"shot {shot['name']!r}: {picture.shape[1]} x {picture.shape[0]}, mean {picture.mean():.0f}")
