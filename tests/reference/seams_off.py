"""How far a written picture is off an answer:
the greatest difference where there is a value, and pixels that have one and should not, or the other way round."""
import json, sys
import numpy as np
from PIL import Image

job = json.load(sys.stdin)
own = np.asarray(Image.open(job["file"])).astype(float)
answer = np.fromfile(job["answer"]).reshape(own.shape[:2])
# grey with alpha, or with 0 for none
valid = own[..., 1] > 0 if own.ndim == 3 else own > 0
grey = own[..., 0] if own.ndim == 3 else own
wanted = answer >= 0
both = valid & wanted
print(json.dumps({"off": float(np.abs(grey - answer)[both].max()), "wrong": int((valid != wanted).sum())}))
