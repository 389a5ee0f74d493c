<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<!-- What the core says, which knows no Qt: its sentences with %1, %2 … for numbers, kept by hand.
     desktop/look/text.h says how they are found; tests/desktop/test_languages.cpp that none is of the past. -->
<TS version="2.1" language="de" sourcelanguage="en">
<context>
    <name>Core</name>
    <message>
        <source>at byte %1</source>
        <translation>bei Byte %1</translation>
    </message>
    <message>
        <source>block row %1</source>
        <translation>Blockzeile %1</translation>
    </message>
    <message>
        <source>the card ends before the file does</source>
        <translation>die Karte endet vor der Datei</translation>
    </message>
    <message>
        <source>the card ends before the recording does</source>
        <translation>die Karte endet vor der Aufnahme</translation>
    </message>
    <message>
        <source>what follows is not of this file</source>
        <translation>was folgt, gehört nicht zu dieser Datei</translation>
    </message>
    <message>
        <source>it states an impossible length</source>
        <translation>sie nennt eine unmögliche Länge</translation>
    </message>
    <message>
        <source>it ends where a cluster does</source>
        <translation>sie endet, wo ein Cluster endet</translation>
    </message>
    <message>
        <source>and other data follow</source>
        <translation>und andere Daten folgen</translation>
    </message>
    <message>
        <source>another file begins in the middle of it</source>
        <translation>mitten darin beginnt eine andere Datei</translation>
    </message>
    <message>
        <source>part of it could not be read from the card</source>
        <translation>ein Teil davon war von der Karte nicht zu lesen</translation>
    </message>
    <message>
        <source>the card could not be read here</source>
        <translation>die Karte war hier nicht zu lesen</translation>
    </message>
    <message>
        <source>these bytes of the card belong to another file, the first of them to file %1</source>
        <translation>diese Bytes der Karte gehören einer anderen Datei, die ersten zu Datei %1</translation>
    </message>
    <message>
        <source>could not be checked</source>
        <translation>nicht zu prüfen</translation>
    </message>
    <message>
        <source>the decoder gave up on it</source>
        <translation>der Dekoder gab dabei auf</translation>
    </message>
    <message>
        <source>it, or a part of it, is in a coding that cannot be checked here</source>
        <translation>sie oder ein Teil davon hat eine Kodierung, die hier nicht geprüft werden kann</translation>
    </message>
    <message>
        <source>its coding carries nothing to check it by: foreign bytes inside of it may go unnoticed</source>
        <translation>ihre Kodierung trägt nichts, woran sie zu prüfen wäre: fremde Bytes darin können unbemerkt bleiben</translation>
    </message>
    <message>
        <source>it ends before the length that its header states</source>
        <translation>sie endet vor der Länge, die ihr Kopf nennt</translation>
    </message>
    <message>
        <source>a tag is not followed by its length</source>
        <translation>auf einen Eintrag folgt nicht seine Länge</translation>
    </message>
    <message>
        <source>the data ends before its end marker</source>
        <translation>die Daten enden vor ihrer Endmarke</translation>
    </message>
    <message>
        <source>nothing but zeros where its data should go on</source>
        <translation>nur Nullen, wo ihre Daten weitergehen müssten</translation>
    </message>
    <message>
        <source>the data ends inside a block</source>
        <translation>die Daten enden in einem Block</translation>
    </message>
    <message>
        <source>the data ends before a restart marker</source>
        <translation>die Daten enden vor einer Neustartmarke</translation>
    </message>
    <message>
        <source>no restart marker where one is due</source>
        <translation>keine Neustartmarke, wo eine fällig ist</translation>
    </message>
    <message>
        <source>a wrong restart number</source>
        <translation>eine falsche Neustartnummer</translation>
    </message>
    <message>
        <source>an impossible code</source>
        <translation>ein unmöglicher Code</translation>
    </message>
    <message>
        <source>a brightness that no picture can have</source>
        <translation>eine Helligkeit, die kein Bild haben kann</translation>
    </message>
    <message>
        <source>more coefficients than a block can hold</source>
        <translation>mehr Koeffizienten, als ein Block fasst</translation>
    </message>
    <message>
        <source>another photo begins</source>
        <translation>ein anderes Foto beginnt</translation>
    </message>
    <message>
        <source>a coding that cannot be checked yet (arithmetic or lossless)</source>
        <translation>eine Kodierung, die noch nicht geprüft werden kann (arithmetisch oder verlustfrei)</translation>
    </message>
    <message>
        <source>progressive: what is missing is detail, over the whole picture</source>
        <translation>progressiv: was fehlt, sind Einzelheiten, über das ganze Bild</translation>
    </message>
    <message>
        <source>it decodes to its end, but from byte %1 on the picture does not continue what is above</source>
        <translation>es dekodiert bis zum Ende, aber ab Byte %1 setzt das Bild nicht fort, was darüber ist</translation>
    </message>
    <message>
        <source>%1 more picture(s) of the same shot behind it</source>
        <translation>%1 weitere Bilder derselben Aufnahme dahinter</translation>
    </message>
    <message>
        <source>a further picture that the file announces is not there or damaged</source>
        <translation>ein weiteres Bild, das die Datei ankündigt, fehlt oder ist beschädigt</translation>
    </message>
    <message>
        <source>with a clip of the moment behind it</source>
        <translation>mit einem Clip des Augenblicks dahinter</translation>
    </message>
    <message>
        <source>the data ends early</source>
        <translation>die Daten enden zu früh</translation>
    </message>
    <message>
        <source>a segment is longer than any can be</source>
        <translation>ein Abschnitt ist länger, als einer sein kann</translation>
    </message>
    <message>
        <source>no start marker</source>
        <translation>keine Anfangsmarke</translation>
    </message>
    <message>
        <source>a few stray bytes before a marker</source>
        <translation>ein paar verirrte Bytes vor einer Marke</translation>
    </message>
    <message>
        <source>no marker where a segment should begin</source>
        <translation>keine Marke, wo ein Abschnitt beginnen müsste</translation>
    </message>
    <message>
        <source>the data ends in a marker</source>
        <translation>die Daten enden in einer Marke</translation>
    </message>
    <message>
        <source>the end marker comes before the picture is complete</source>
        <translation>die Endmarke kommt, bevor das Bild vollständig ist</translation>
    </message>
    <message>
        <source>an impossible marker</source>
        <translation>eine unmögliche Marke</translation>
    </message>
    <message>
        <source>a segment without a length</source>
        <translation>ein Abschnitt ohne Länge</translation>
    </message>
    <message>
        <source>the data ends in a segment</source>
        <translation>die Daten enden in einem Abschnitt</translation>
    </message>
    <message>
        <source>a damaged restart interval</source>
        <translation>ein beschädigter Neustartabstand</translation>
    </message>
    <message>
        <source>a damaged frame header</source>
        <translation>ein beschädigter Bildkopf</translation>
    </message>
    <message>
        <source>a second frame header</source>
        <translation>ein zweiter Bildkopf</translation>
    </message>
    <message>
        <source>a frame header without a size</source>
        <translation>ein Bildkopf ohne Größe</translation>
    </message>
    <message>
        <source>limit exceeded: more pixels than are looked at</source>
        <translation>Grenze überschritten: mehr Bildpunkte, als angesehen werden</translation>
    </message>
    <message>
        <source>a damaged quantisation table</source>
        <translation>eine beschädigte Quantisierungstabelle</translation>
    </message>
    <message>
        <source>a damaged Huffman table</source>
        <translation>eine beschädigte Huffman-Tabelle</translation>
    </message>
    <message>
        <source>a damaged scan header</source>
        <translation>ein beschädigter Durchgangskopf</translation>
    </message>
    <message>
        <source>a table that the scan needs is missing</source>
        <translation>eine Tabelle, die der Durchgang braucht, fehlt</translation>
    </message>
    <message>
        <source>its coded data do not end with the picture</source>
        <translation>ihre kodierten Daten enden nicht mit dem Bild</translation>
    </message>
    <message>
        <source>nothing of it decodes</source>
        <translation>nichts davon dekodiert</translation>
    </message>
    <message>
        <source>Nothing of it decodes</source>
        <translation>Nichts davon dekodiert</translation>
    </message>
    <message>
        <source>the units of a frame do not fill it</source>
        <translation>die Einheiten eines Bildes füllen es nicht</translation>
    </message>
    <message>
        <source>an impossible unit in a frame</source>
        <translation>eine unmögliche Einheit in einem Bild</translation>
    </message>
    <message>
        <source>bytes in a frame that its coding forbids</source>
        <translation>Bytes in einem Bild, die seine Kodierung verbietet</translation>
    </message>
    <message>
        <source>a photo's data among its own</source>
        <translation>Daten eines Fotos zwischen den eigenen</translation>
    </message>
    <message>
        <source>a picture of it breaks off</source>
        <translation>ein Bild davon bricht ab</translation>
    </message>
    <message>
        <source>a run of zeros in the coded sound</source>
        <translation>eine Folge von Nullen im kodierten Ton</translation>
    </message>
    <message>
        <source>it has no index</source>
        <translation>sie hat keinen Index</translation>
    </message>
    <message>
        <source>part of a picture is not in its data</source>
        <translation>ein Teil eines Bildes ist nicht in ihren Daten</translation>
    </message>
    <message>
        <source>other data lie among its samples</source>
        <translation>andere Daten liegen zwischen ihren Proben</translation>
    </message>
    <message>
        <source>a frame does not decode cleanly</source>
        <translation>ein Bild dekodiert nicht sauber</translation>
    </message>
    <message>
        <source>a stream that was not there at its beginning</source>
        <translation>ein Strom, der am Anfang nicht da war</translation>
    </message>
    <message>
        <source>stretches of its sound are not this recording</source>
        <translation>Strecken ihres Tons sind nicht diese Aufnahme</translation>
    </message>
    <message>
        <source>samples that the index announces are not there</source>
        <translation>Proben, die der Index ankündigt, sind nicht da</translation>
    </message>
    <message>
        <source>it does not open</source>
        <translation>sie öffnet sich nicht</translation>
    </message>
    <message>
        <source>it holds no picture</source>
        <translation>sie enthält kein Bild</translation>
    </message>
    <message>
        <source>its sensor data do not decode to the end</source>
        <translation>ihre Sensordaten dekodieren nicht bis zum Ende</translation>
    </message>
    <message>
        <source>other data lie among its sensor data</source>
        <translation>andere Daten liegen zwischen ihren Sensordaten</translation>
    </message>
    <message>
        <source>its preview is damaged</source>
        <translation>ihre Vorschau ist beschädigt</translation>
    </message>
    <message>
        <source>no frame follows</source>
        <translation>kein Bild folgt</translation>
    </message>
    <message>
        <source>no picture follows</source>
        <translation>kein Bild folgt</translation>
    </message>
    <message>
        <source>no block follows</source>
        <translation>kein Block folgt</translation>
    </message>
    <message>
        <source>no chunk follows</source>
        <translation>kein Abschnitt folgt</translation>
    </message>
    <message>
        <source>no page follows</source>
        <translation>keine Seite folgt</translation>
    </message>
    <message>
        <source>no key follows</source>
        <translation>kein Schlüssel folgt</translation>
    </message>
    <message>
        <source>no element follows</source>
        <translation>kein Element folgt</translation>
    </message>
    <message>
        <source>no segment follows</source>
        <translation>kein Segment folgt</translation>
    </message>
    <message>
        <source>no data follow</source>
        <translation>keine Daten folgen</translation>
    </message>
    <message>
        <source>a part of the picture is missing</source>
        <translation>ein Teil des Bildes fehlt</translation>
    </message>
    <message>
        <source>its data end inside a block</source>
        <translation>ihre Daten enden in einem Block</translation>
    </message>
    <message>
        <source>its data go on behind the last block</source>
        <translation>ihre Daten gehen hinter dem letzten Block weiter</translation>
    </message>
    <message>
        <source>a row or tile of it does not end where it must</source>
        <translation>eine Zeile oder Kachel endet nicht, wo sie muss</translation>
    </message>
    <message>
        <source>its data do not end with its last block</source>
        <translation>ihre Daten enden nicht mit dem letzten Block</translation>
    </message>
    <message>
        <source>a number that cannot be</source>
        <translation>eine Zahl, die nicht sein kann</translation>
    </message>
    <message>
        <source>a block that cannot be split</source>
        <translation>ein Block, der nicht teilbar ist</translation>
    </message>
    <message>
        <source>a quantisation that cannot be</source>
        <translation>eine Quantisierung, die nicht sein kann</translation>
    </message>
    <message>
        <source>a motion that cannot be</source>
        <translation>eine Bewegung, die nicht sein kann</translation>
    </message>
    <message>
        <source>samples do not begin where they must</source>
        <translation>Werte beginnen nicht, wo sie müssen</translation>
    </message>
    <message>
        <source>a coefficient that cannot be</source>
        <translation>ein Koeffizient, der nicht sein kann</translation>
    </message>
    <message>
        <source>a coefficient outside of its block</source>
        <translation>ein Koeffizient außerhalb seines Blocks</translation>
    </message>
    <message>
        <source>a kind of macroblock that there is not</source>
        <translation>eine Art Makroblock, die es nicht gibt</translation>
    </message>
    <message>
        <source>a kind of prediction that there is not</source>
        <translation>eine Art Vorhersage, die es nicht gibt</translation>
    </message>
    <message>
        <source>a reference to a picture that is not there</source>
        <translation>ein Bezug auf ein Bild, das nicht da ist</translation>
    </message>
    <message>
        <source>a pattern of blocks that there is not</source>
        <translation>ein Blockmuster, das es nicht gibt</translation>
    </message>
    <message>
        <source>a slice's head is damaged</source>
        <translation>der Kopf einer Scheibe ist beschädigt</translation>
    </message>
    <message>
        <source>the units of a picture do not fill it</source>
        <translation>die Einheiten eines Bildes füllen es nicht</translation>
    </message>
    <message>
        <source>%1 samples were recorded, %2 are here</source>
        <translation>%1 Werte wurden aufgenommen, %2 sind hier</translation>
    </message>
    <message>
        <source>it breaks off</source>
        <translation>sie bricht ab</translation>
    </message>
    <message>
        <source>%1 frames were recorded, %2 are here</source>
        <translation>%1 Rahmen wurden aufgenommen, %2 sind hier</translation>
    </message>
    <message>
        <source>an impossible rate</source>
        <translation>eine unmögliche Rate</translation>
    </message>
    <message>
        <source>no sample rate</source>
        <translation>keine Abtastrate</translation>
    </message>
    <message>
        <source>the recording was never closed</source>
        <translation>die Aufnahme wurde nie abgeschlossen</translation>
    </message>
    <message>
        <source>it does not say how long it is</source>
        <translation>sie sagt nicht, wie lang sie ist</translation>
    </message>
    <message>
        <source>its last chunk ends</source>
        <translation>ihr letzter Abschnitt endet</translation>
    </message>
    <message>
        <source>a page does not agree with its checksum</source>
        <translation>eine Seite stimmt nicht mit ihrer Prüfsumme überein</translation>
    </message>
    <message>
        <source>pages are missing</source>
        <translation>Seiten fehlen</translation>
    </message>
    <message>
        <source>a chunk does not agree with its checksum</source>
        <translation>ein Abschnitt stimmt nicht mit seiner Prüfsumme überein</translation>
    </message>
    <message>
        <source>a track is missing</source>
        <translation>eine Spur fehlt</translation>
    </message>
    <message>
        <source>a track of impossible length</source>
        <translation>eine Spur von unmöglicher Länge</translation>
    </message>
    <message>
        <source>a track of it holds foreign events</source>
        <translation>eine Spur davon enthält fremde Ereignisse</translation>
    </message>
    <message>
        <source>it ends within a line</source>
        <translation>sie endet in einer Zeile</translation>
    </message>
    <message>
        <source>the index points outside of the clip's data</source>
        <translation>der Index weist aus den Daten des Clips hinaus</translation>
    </message>
    <message>
        <source>its index is damaged</source>
        <translation>ihr Index ist beschädigt</translation>
    </message>
    <message>
        <source>its index is not where its data end</source>
        <translation>ihr Index ist nicht, wo ihre Daten enden</translation>
    </message>
    <message>
        <source>it has no index; a good clip of the same camera, lent, may help</source>
        <translation>sie hat keinen Index; ein guter Clip derselben Kamera, geliehen, kann helfen</translation>
    </message>
    <message>
        <source>it also holds</source>
        <translation>sie enthält auch</translation>
    </message>
    <message>
        <source>a timecode</source>
        <translation>einen Zeitcode</translation>
    </message>
    <message>
        <source>a twin picture of the same size</source>
        <translation>ein Zwillingsbild gleicher Größe</translation>
    </message>
    <message>
        <source>a second picture of another size</source>
        <translation>ein zweites Bild anderer Größe</translation>
    </message>
    <message>
        <source>its index points behind the end of its data</source>
        <translation>ihr Index weist hinter das Ende ihrer Daten</translation>
    </message>
    <message>
        <source>from byte %1 on there are data that cannot be this recording</source>
        <translation>ab Byte %1 stehen Daten, die nicht diese Aufnahme sein können</translation>
    </message>
    <message>
        <source>at byte %1 the sound jumps: what is there may belong to another recording</source>
        <translation>bei Byte %1 springt der Ton: was dort steht, kann zu einer anderen Aufnahme gehören</translation>
    </message>
    <message>
        <source>packets of it are foreign</source>
        <translation>Pakete davon sind fremd</translation>
    </message>
    <message>
        <source>packets are missing or foreign: the counters jump %1 times</source>
        <translation>Pakete fehlen oder sind fremd: die Zähler springen %1 Mal</translation>
    </message>
    <message>
        <source>a length that is none</source>
        <translation>eine Länge, die keine ist</translation>
    </message>
    <message>
        <source>a frame of it is not all there</source>
        <translation>ein Bild davon ist nicht ganz da</translation>
    </message>
    <message>
        <source>blocks of its frames are foreign</source>
        <translation>Blöcke ihrer Bilder sind fremd</translation>
    </message>
    <message>
        <source>no packets</source>
        <translation>keine Pakete</translation>
    </message>
    <message>
        <source>its coded data are none, or end before the picture does</source>
        <translation>ihre kodierten Daten sind keine oder enden vor dem Bild</translation>
    </message>
    <message>
        <source>its coded data end before the picture does, in row %1</source>
        <translation>ihre kodierten Daten enden vor dem Bild, in Zeile %1</translation>
    </message>
    <message>
        <source>its picture ends before the coded data do</source>
        <translation>ihr Bild endet vor den kodierten Daten</translation>
    </message>
    <message>
        <source>it holds no lossless picture</source>
        <translation>sie enthält kein verlustfreies Bild</translation>
    </message>
    <message>
        <source>its opacity is missing</source>
        <translation>ihre Deckkraft fehlt</translation>
    </message>
    <message>
        <source>its opacity is not as long as it should be</source>
        <translation>ihre Deckkraft ist nicht so lang, wie sie sein sollte</translation>
    </message>
    <message>
        <source>its parts reach over its end</source>
        <translation>ihre Teile reichen über ihr Ende</translation>
    </message>
    <message>
        <source>it holds no key frame</source>
        <translation>sie enthält kein Schlüsselbild</translation>
    </message>
    <message>
        <source>a format of your own: found by its signature, nothing of it is decoded</source>
        <translation>ein eigenes Format: an seiner Signatur gefunden, nichts davon wird dekodiert</translation>
    </message>
    <message>
        <source>its end was not found: cut at the next file, or at its largest size</source>
        <translation>ihr Ende wurde nicht gefunden: bei der nächsten Datei oder der höchsten Größe abgeschnitten</translation>
    </message>
    <message>
        <source>its end is not known: cut at the next file, or at its largest size</source>
        <translation>ihr Ende ist nicht bekannt: bei der nächsten Datei oder der höchsten Größe abgeschnitten</translation>
    </message>
    <message>
        <source>the allocation table leads on here</source>
        <translation>die Zuordnungstabelle führt hier weiter</translation>
    </message>
    <message>
        <source>nothing of its kind begins where the directory says it lies</source>
        <translation>wo das Verzeichnis sie nennt, beginnt nichts ihrer Art</translation>
    </message>
    <message>
        <source>the directory says %1 bytes, the file itself %2</source>
        <translation>das Verzeichnis sagt %1 Byte, die Datei selbst %2</translation>
    </message>
    <message>
        <source>belongs to file %1</source>
        <translation>gehört zu Datei %1</translation>
    </message>
    <message>
        <source>it has the same name</source>
        <translation>sie hat denselben Namen</translation>
    </message>
    <message>
        <source>it is as long as that clip, the nearest such on the card</source>
        <translation>sie ist so lang wie jener Clip, der nächste solche auf der Karte</translation>
    </message>
    <message>
        <source>it was taken in the same second and is as small as a thumbnail</source>
        <translation>in derselben Sekunde aufgenommen und so klein wie ein Vorschaubild</translation>
    </message>
    <message>
        <source>it was taken in the same second, and is as long and as large: its twin</source>
        <translation>in derselben Sekunde aufgenommen und so lang und so groß: ihr Zwilling</translation>
    </message>
    <message>
        <source>it was taken in the same second, and is as long and smaller: its proxy</source>
        <translation>in derselben Sekunde aufgenommen und so lang, aber kleiner: ihr Stellvertreter</translation>
    </message>
    <message>
        <source>it was dated in the same second, and they were cut by size: a chapter of one long take</source>
        <translation>in derselben Sekunde datiert, und nach Größe geschnitten: ein Kapitel einer langen Aufnahme</translation>
    </message>
    <message>
        <source>it begins when file %1 ends, with the same settings: the next chapter of a long take</source>
        <translation>sie beginnt, wenn Datei %1 endet, mit denselben Einstellungen: das nächste Kapitel einer langen Aufnahme</translation>
    </message>
    <message>
        <source>it goes on behind what lies in its way, and is whole then</source>
        <translation>sie geht hinter dem weiter, was im Weg liegt, und ist dann ganz</translation>
    </message>
    <message>
        <source>it goes on behind what lies in its way; nothing in its coding proves that</source>
        <translation>sie geht hinter dem weiter, was im Weg liegt; nichts in ihrer Kodierung beweist das</translation>
    </message>
    <message>
        <source>it has the length that the directory says</source>
        <translation>sie hat die Länge, die das Verzeichnis nennt</translation>
    </message>
    <message>
        <source>put together around what lies in its way; nothing in its coding proves that</source>
        <translation>um das herum zusammengesetzt, was im Weg liegt; nichts in ihrer Kodierung beweist das</translation>
    </message>
    <message>
        <source>its beginning is gone</source>
        <translation>ihr Anfang ist weg</translation>
    </message>
    <message>
        <source>its header, and the bands in the place of what is missing, were made after file %1</source>
        <translation>ihr Kopf und die Streifen an der Stelle des Fehlenden wurden nach Datei %1 gemacht</translation>
    </message>
    <message>
        <source>how far down in the picture it belongs is not known</source>
        <translation>wie weit unten im Bild es hingehört, ist nicht bekannt</translation>
    </message>
    <message>
        <source>its brightness and tint are a guess</source>
        <translation>Helligkeit und Farbton sind geschätzt</translation>
    </message>
    <message>
        <source>an end marker</source>
        <translation>eine Endmarke</translation>
    </message>
    <message>
        <source>a part of its middle is gone</source>
        <translation>ein Teil ihrer Mitte ist weg</translation>
    </message>
    <message>
        <source>the bands in its place were made</source>
        <translation>die Streifen an seiner Stelle wurden gemacht</translation>
    </message>
    <message>
        <source>the brightness and tint of what is below are a guess</source>
        <translation>Helligkeit und Farbton darunter sind geschätzt</translation>
    </message>
    <message>
        <source>the record that reaches over the end of the piece before is followed by the next one to the byte, and its counters and clock go on</source>
        <translation>auf den Satz, der über das Ende des vorigen Stücks reicht, folgt der nächste aufs Byte, und Zähler und Uhr gehen weiter</translation>
    </message>
    <message>
        <source>it breaks off at the end of a cluster, within a record; what it goes on with was not found</source>
        <translation>sie bricht am Ende eines Clusters in einem Satz ab; womit sie weitergeht, wurde nicht gefunden</translation>
    </message>
    <message>
        <source>it begins within a cluster: what is in front of it was not found</source>
        <translation>sie beginnt in einem Cluster: was davor ist, wurde nicht gefunden</translation>
    </message>
    <message>
        <source>the waveform goes on over the border, and the pieces are as long as the recording is together</source>
        <translation>die Wellenform geht über die Grenze weiter, und die Stücke sind zusammen so lang wie die Aufnahme</translation>
    </message>
    <message>
        <source>put together by its waveform; nothing in its coding proves that</source>
        <translation>nach der Wellenform zusammengesetzt; nichts in ihrer Kodierung beweist das</translation>
    </message>
    <message>
        <source>the coded data go on here, to the end marker at the last block, and the picture continues</source>
        <translation>die kodierten Daten gehen hier weiter, bis zur Endmarke beim letzten Block, und das Bild setzt sich fort</translation>
    </message>
    <message>
        <source>the coded data go on here and the picture continues; its end was not found</source>
        <translation>die kodierten Daten gehen hier weiter und das Bild setzt sich fort; ihr Ende wurde nicht gefunden</translation>
    </message>
    <message>
        <source>its records go on here and are right to the end</source>
        <translation>ihre Sätze gehen hier weiter und stimmen bis zum Ende</translation>
    </message>
    <message>
        <source>its index was lost and has been written anew</source>
        <translation>ihr Index war verloren und wurde neu geschrieben</translation>
    </message>
    <message>
        <source>its index was lost; a new one for %1 pictures was written after file %2</source>
        <translation>ihr Index war verloren; ein neuer für %1 Bilder wurde nach Datei %2 geschrieben</translation>
    </message>
    <message>
        <source>%1 bytes between them belong to nothing that is known</source>
        <translation>%1 Byte dazwischen gehören zu nichts Bekanntem</translation>
    </message>
    <message>
        <source>states how long the media data are</source>
        <translation>sagt, wie lang die Mediendaten sind</translation>
    </message>
    <message>
        <source>both pieces reach just as far as their places on the card go</source>
        <translation>beide Stücke reichen genau so weit wie ihre Plätze auf der Karte</translation>
    </message>
    <message>
        <source>of the places where it may go on, here the pictures decode without an error</source>
        <translation>von den Stellen, wo sie weitergehen kann, dekodieren hier die Bilder ohne Fehler</translation>
    </message>
    <message>
        <source>the place where it goes on could not be told exactly</source>
        <translation>die Stelle, wo sie weitergeht, war nicht genau zu bestimmen</translation>
    </message>
    <message>
        <source>the samples that the index lists begin here again</source>
        <translation>die Proben, die der Index nennt, beginnen hier wieder</translation>
    </message>
    <message>
        <source>set by the technician</source>
        <translation>vom Techniker gesetzt</translation>
    </message>
    <message>
        <source>the rows above and below fit</source>
        <translation>die Zeilen darüber und darunter passen</translation>
    </message>
    <message>
        <source>the rows above and below do not fit</source>
        <translation>die Zeilen darüber und darunter passen nicht</translation>
    </message>
    <message>
        <source>whether the rows fit cannot be told</source>
        <translation>ob die Zeilen passen, ist nicht zu sagen</translation>
    </message>
    <message>
        <source>it ends with exactly the last block</source>
        <translation>es endet genau mit dem letzten Block</translation>
    </message>
    <message>
        <source>it ends before the picture is complete</source>
        <translation>es endet, bevor das Bild vollständig ist</translation>
    </message>
    <message>
        <source>then comes what belongs to another file</source>
        <translation>dann kommt, was einer anderen Datei gehört</translation>
    </message>
    <message>
        <source>the piece before ends %1 clusters earlier</source>
        <translation>das Stück davor endet %1 Cluster früher</translation>
    </message>
    <message>
        <source>so far it belongs to file %1</source>
        <translation>bisher gehört es zu Datei %1</translation>
    </message>
    <message>
        <source>what is left</source>
        <translation>was übrig ist</translation>
    </message>
    <message>
        <source>what plays</source>
        <translation>was läuft</translation>
    </message>
    <message>
        <source>decoded and written again as a JPEG of %1 by %2</source>
        <translation>dekodiert und neu geschrieben als JPEG von %1 mal %2</translation>
    </message>
    <message>
        <source>%1 % of its rows are lost and striped</source>
        <translation>%1 % der Zeilen sind verloren und gestreift</translation>
    </message>
    <message>
        <source>whole</source>
        <translation>ganz</translation>
    </message>
    <message>
        <source>partial</source>
        <translation>teilweise</translation>
    </message>
    <message>
        <source>broken</source>
        <translation>zerstört</translation>
    </message>
    <message>
        <source>unchecked</source>
        <translation>ungeprüft</translation>
    </message>
    <message>
        <source>live</source>
        <translation>gültig</translation>
    </message>
    <message>
        <source>photo</source>
        <translation>Foto</translation>
    </message>
    <message>
        <source>video</source>
        <translation>Clip</translation>
    </message>
    <message>
        <source>audio</source>
        <translation>Ton</translation>
    </message>
    <message>
        <source>blank</source>
        <translation>leer</translation>
    </message>
    <message>
        <source>text</source>
        <translation>Text</translation>
    </message>
    <message>
        <source>compressed</source>
        <translation>verdichtet</translation>
    </message>
    <message>
        <source>folder entries</source>
        <translation>Ordnereinträge</translation>
    </message>
    <message>
        <source>photo data, as in a JPEG</source>
        <translation>Fotodaten, wie in einem JPEG</translation>
    </message>
    <message>
        <source>transport stream</source>
        <translation>Transportstrom</translation>
    </message>
    <message>
        <source>plain sound</source>
        <translation>unkodierter Ton</translation>
    </message>
    <message>
        <source>dense data, as in a clip</source>
        <translation>dichte Daten, wie in einem Clip</translation>
    </message>
    <message>
        <source>structured data</source>
        <translation>gegliederte Daten</translation>
    </message>
    <message>
        <source>2026-05-02, or undated</source>
        <translation>2026-05-02, oder undated</translation>
    </message>
    <message>
        <source>the camera, or Photo, Clip, Sound</source>
        <translation>die Kamera, oder Photo, Clip, Sound</translation>
    </message>
    <message>
        <source>00017, the file's number in the job</source>
        <translation>00017, die Nummer der Datei im Auftrag</translation>
    </message>
    <message>
        <source>A word is not closed with }</source>
        <translation>Ein Wort ist nicht mit } geschlossen</translation>
    </message>
    <message>
        <source>mounted by a program</source>
        <translation>von einem Programm eingehängt</translation>
    </message>
    <message>
        <source>then the data ends inside a block</source>
        <translation>dann enden die Daten in einem Block</translation>
    </message>
    <message>
        <source>then the data ends before its end marker</source>
        <translation>dann enden die Daten vor der Endmarke</translation>
    </message>
    <message>
        <source>then nothing but zeros where its data should go on</source>
        <translation>dann nur Nullen, wo die Daten weitergehen müssten</translation>
    </message>
    <message>
        <source>then an impossible code</source>
        <translation>dann ein unmöglicher Code</translation>
    </message>
    <message>
        <source>then more coefficients than a block can hold</source>
        <translation>dann mehr Koeffizienten, als ein Block fasst</translation>
    </message>
    <message>
        <source>then a brightness that no picture can have</source>
        <translation>dann eine Helligkeit, die kein Bild haben kann</translation>
    </message>
    <message>
        <source>then no restart marker where one is due</source>
        <translation>dann keine Neustartmarke, wo eine fällig ist</translation>
    </message>
    <message>
        <source>then a wrong restart number</source>
        <translation>dann eine falsche Neustartnummer</translation>
    </message>
    <message>
        <source>then another photo begins</source>
        <translation>dann beginnt ein anderes Foto</translation>
    </message>
    <message>
        <source>the piece before ends %1 cluster earlier</source>
        <translation>das Stück davor endet %1 Cluster früher</translation>
    </message>
    <message>
        <source>the piece before ends %1 cluster later</source>
        <translation>das Stück davor endet %1 Cluster später</translation>
    </message>
    <message>
        <source>the piece before ends %1 clusters later</source>
        <translation>das Stück davor endet %1 Cluster später</translation>
    </message>
    <message>
        <source>Check the room and the rights on the drive that holds the job</source>
        <translation>Platz und Rechte auf dem Laufwerk des Auftrags prüfen</translation>
    </message>
    <message>
        <source>This job is being worked on by another Dreskel</source>
        <translation>An diesem Auftrag arbeitet ein anderes Dreskel</translation>
    </message>
    <message>
        <source>Stop the other one first; listing and saving work meanwhile</source>
        <translation>Erst das andere anhalten; Auflisten und Sichern geht inzwischen</translation>
    </message>
    <message>
        <source>There is no job here</source>
        <translation>Hier ist kein Auftrag</translation>
    </message>
    <message>
        <source>This job was made by a newer Dreskel</source>
        <translation>Diesen Auftrag hat ein neueres Dreskel angelegt</translation>
    </message>
    <message>
        <source>Use that one</source>
        <translation>Dieses benutzen</translation>
    </message>
    <message>
        <source>The source could not be opened</source>
        <translation>Die Quelle war nicht zu öffnen</translation>
    </message>
    <message>
        <source>The source could not be looked at</source>
        <translation>Die Quelle war nicht anzusehen</translation>
    </message>
    <message>
        <source>The source is neither a block device nor a file</source>
        <translation>Die Quelle ist weder ein Blockgerät noch eine Datei</translation>
    </message>
    <message>
        <source>Name a card's device, such as /dev/sdX, or an image of a card</source>
        <translation>Das Gerät einer Karte nennen, etwa /dev/sdX, oder ein Abbild einer Karte</translation>
    </message>
    <message>
        <source>The source is empty</source>
        <translation>Die Quelle ist leer</translation>
    </message>
    <message>
        <source>Is a card in the reader?</source>
        <translation>Steckt eine Karte im Lesegerät?</translation>
    </message>
    <message>
        <source>Choose another image</source>
        <translation>Ein anderes Abbild wählen</translation>
    </message>
    <message>
        <source>Ask for the right to read this device, or work on an image of it</source>
        <translation>Um das Recht bitten, dieses Gerät zu lesen, oder mit einem Abbild arbeiten</translation>
    </message>
    <message>
        <source>Check the path</source>
        <translation>Den Pfad prüfen</translation>
    </message>
    <message>
        <source>Take the card out and put it in again</source>
        <translation>Die Karte herausnehmen und wieder einstecken</translation>
    </message>
    <message>
        <source>The card is not there</source>
        <translation>Die Karte ist nicht da</translation>
    </message>
    <message>
        <source>Attach it, or open its copy, and open the job again</source>
        <translation>Sie anschließen oder ihre Kopie öffnen und den Auftrag neu öffnen</translation>
    </message>
    <message>
        <source>The card is not there: nothing of it can be saved</source>
        <translation>Die Karte ist nicht da: nichts davon kann gesichert werden</translation>
    </message>
    <message>
        <source>The decoder could not be started</source>
        <translation>Der Dekoder war nicht zu starten</translation>
    </message>
    <message>
        <source>Install Dreskel again, so that dreskel-decoder lies beside it</source>
        <translation>Dreskel neu installieren, damit dreskel-decoder daneben liegt</translation>
    </message>
    <message>
        <source>The decoder ended unexpectedly</source>
        <translation>Der Dekoder endete unerwartet</translation>
    </message>
    <message>
        <source>The decoder ended over this file</source>
        <translation>Der Dekoder endete an dieser Datei</translation>
    </message>
    <message>
        <source>The decoder came to no end over this file</source>
        <translation>Der Dekoder kam mit dieser Datei zu keinem Ende</translation>
    </message>
    <message>
        <source>This job belongs to another source</source>
        <translation>Dieser Auftrag gehört zu einer anderen Quelle</translation>
    </message>
    <message>
        <source>The card is being searched</source>
        <translation>Die Karte wird durchsucht</translation>
    </message>
    <message>
        <source>Stop the search first</source>
        <translation>Erst die Suche anhalten</translation>
    </message>
    <message>
        <source>There is no such file</source>
        <translation>Diese Datei gibt es nicht</translation>
    </message>
    <message>
        <source>A search is running</source>
        <translation>Eine Suche läuft</translation>
    </message>
    <message>
        <source>Wait until it is done, or stop it; then keep the picture</source>
        <translation>Warten, bis sie fertig ist, oder sie anhalten; dann das Bild behalten</translation>
    </message>
    <message>
        <source>Stopped; the job is kept and goes on when asked to</source>
        <translation>Angehalten; der Auftrag bleibt und geht weiter, wenn man es verlangt</translation>
    </message>
    <message>
        <source>Stopped; the copy goes on when asked to</source>
        <translation>Angehalten; die Kopie geht weiter, wenn man es verlangt</translation>
    </message>
    <message>
        <source>The copy there is of another card</source>
        <translation>Die Kopie dort ist von einer anderen Karte</translation>
    </message>
    <message>
        <source>its contents differ</source>
        <translation>ihr Inhalt ist ein anderer</translation>
    </message>
    <message>
        <source>Choose another name for the copy, or put that card in</source>
        <translation>Einen anderen Namen für die Kopie wählen oder jene Karte einstecken</translation>
    </message>
    <message>
        <source>Choose another name for the copy</source>
        <translation>Einen anderen Namen für die Kopie wählen</translation>
    </message>
    <message>
        <source>There is no such folder for the copy</source>
        <translation>Diesen Ordner für die Kopie gibt es nicht</translation>
    </message>
    <message>
        <source>Make the folder first, or choose another</source>
        <translation>Den Ordner erst anlegen oder einen anderen wählen</translation>
    </message>
    <message>
        <source>The drive is full. Make room and go on; nothing is lost</source>
        <translation>Das Laufwerk ist voll. Platz schaffen und weitermachen; nichts ist verloren</translation>
    </message>
    <message>
        <source>The card has gone away in the middle of the copy</source>
        <translation>Die Karte ging mitten in der Kopie verloren</translation>
    </message>
    <message>
        <source>Take it out, put it in again and go on: what was read is kept, and the place where it happened is left for last</source>
        <translation>Herausnehmen, wieder einstecken und weitermachen: Gelesenes bleibt, und die Stelle, wo es geschah, kommt zuletzt</translation>
    </message>
    <message>
        <source>The copy could not be written</source>
        <translation>Die Kopie war nicht zu schreiben</translation>
    </message>
    <message>
        <source>The copy could not be created</source>
        <translation>Die Kopie war nicht anzulegen</translation>
    </message>
    <message>
        <source>Do not trust this drive, nor this copy</source>
        <translation>Diesem Laufwerk und dieser Kopie nicht trauen</translation>
    </message>
    <message>
        <source>The destination is not a folder</source>
        <translation>Das Ziel ist kein Ordner</translation>
    </message>
    <message>
        <source>Name a folder on another drive</source>
        <translation>Einen Ordner auf einem anderen Laufwerk nennen</translation>
    </message>
    <message>
        <source>The destination cannot be looked at</source>
        <translation>Das Ziel ist nicht anzusehen</translation>
    </message>
    <message>
        <source>Choose another folder</source>
        <translation>Einen anderen Ordner wählen</translation>
    </message>
    <message>
        <source>The destination lies on the card itself, and writing there would destroy what is still to be saved</source>
        <translation>Das Ziel liegt auf der Karte selbst; dort zu schreiben würde zerstören, was noch zu sichern ist</translation>
    </message>
    <message>
        <source>Choose a folder on another drive</source>
        <translation>Einen Ordner auf einem anderen Laufwerk wählen</translation>
    </message>
    <message>
        <source>The destination is read-only</source>
        <translation>Auf das Ziel kann nicht geschrieben werden</translation>
    </message>
    <message>
        <source>There is no right to write to the destination</source>
        <translation>Es fehlt das Recht, in das Ziel zu schreiben</translation>
    </message>
    <message>
        <source>There is not enough room: %1 are needed and %2 are free</source>
        <translation>Der Platz reicht nicht: %1 sind nötig und %2 frei</translation>
    </message>
    <message>
        <source>Choose a larger drive, or fewer files</source>
        <translation>Ein größeres Laufwerk wählen oder weniger Dateien</translation>
    </message>
    <message>
        <source>The folder could not be made</source>
        <translation>Der Ordner war nicht anzulegen</translation>
    </message>
    <message>
        <source>Files for a camera go to an empty card only</source>
        <translation>Dateien für eine Kamera kommen nur auf eine leere Karte</translation>
    </message>
    <message>
        <source>Format a card in the camera and choose that, or choose an empty folder</source>
        <translation>Eine Karte in der Kamera formatieren und diese wählen, oder einen leeren Ordner</translation>
    </message>
    <message>
        <source>stopped before its turn</source>
        <translation>angehalten, bevor sie an der Reihe war</translation>
    </message>
    <message>
        <source>The drive is full; make room or choose another</source>
        <translation>Das Laufwerk ist voll; Platz schaffen oder ein anderes wählen</translation>
    </message>
    <message>
        <source>The file could not be created</source>
        <translation>Die Datei war nicht anzulegen</translation>
    </message>
    <message>
        <source>The source ended before the file did</source>
        <translation>Die Quelle endete vor der Datei</translation>
    </message>
    <message>
        <source>Writing failed</source>
        <translation>Schreiben scheiterte</translation>
    </message>
    <message>
        <source>Flushing to the drive failed</source>
        <translation>Das Übertragen auf das Laufwerk scheiterte</translation>
    </message>
    <message>
        <source>Flushing the drive failed</source>
        <translation>Das Übertragen auf das Laufwerk scheiterte</translation>
    </message>
    <message>
        <source>Save once more: what is there is read again and not written twice</source>
        <translation>Noch einmal sichern: Vorhandenes wird neu gelesen und nicht zweimal geschrieben</translation>
    </message>
    <message>
        <source>The file could not be read back</source>
        <translation>Die Datei war nicht zurückzulesen</translation>
    </message>
    <message>
        <source>What the drive gives back is not what was written</source>
        <translation>Was das Laufwerk zurückgibt, ist nicht, was geschrieben wurde</translation>
    </message>
    <message>
        <source>Do not trust this drive; save to another one</source>
        <translation>Diesem Laufwerk nicht trauen; auf ein anderes sichern</translation>
    </message>
    <message>
        <source>The file could not be given its name</source>
        <translation>Die Datei konnte ihren Namen nicht bekommen</translation>
    </message>
    <message>
        <source>The list could not be created</source>
        <translation>Die Liste war nicht anzulegen</translation>
    </message>
    <message>
        <source>The list could not be written</source>
        <translation>Die Liste war nicht zu schreiben</translation>
    </message>
    <message>
        <source>it is missing or cannot be opened</source>
        <translation>sie fehlt oder ist nicht zu öffnen</translation>
    </message>
    <message>
        <source>it cannot be read to its end</source>
        <translation>sie ist nicht bis zum Ende zu lesen</translation>
    </message>
    <message>
        <source>its bytes are not those that were saved</source>
        <translation>ihre Bytes sind nicht die gesicherten</translation>
    </message>
    <message>
        <source>its path leads out of the folder</source>
        <translation>ihr Pfad führt aus dem Ordner hinaus</translation>
    </message>
    <message>
        <source>There is no manifest of a delivery here</source>
        <translation>Hier ist kein Verzeichnis einer Lieferung</translation>
    </message>
    <message>
        <source>Name the folder that the files were saved to</source>
        <translation>Den Ordner nennen, in den gesichert wurde</translation>
    </message>
    <message>
        <source>What faces look like is not installed</source>
        <translation>Wie Gesichter aussehen, ist nicht installiert</translation>
    </message>
    <message>
        <source>Install the package opencv-data</source>
        <translation>Das Paket opencv-data installieren</translation>
    </message>
    <message>
        <source>Save the file as it is</source>
        <translation>Die Datei sichern, wie sie ist</translation>
    </message>
    <message>
        <source>No picture of it could be written</source>
        <translation>Kein Bild davon war zu schreiben</translation>
    </message>
    <message>
        <source>its index is not there</source>
        <translation>ihr Index ist nicht da</translation>
    </message>
    <message>
        <source>its index cannot be read</source>
        <translation>ihr Index ist nicht zu lesen</translation>
    </message>
    <message>
        <source>none of its pictures is left</source>
        <translation>keines ihrer Bilder ist übrig</translation>
    </message>
    <message>
        <source>This sample cannot be read, or is empty</source>
        <translation>Dieses Muster ist nicht zu lesen oder leer</translation>
    </message>
    <message>
        <source>One sample says nothing of what others have in common with it</source>
        <translation>Ein Muster sagt nichts darüber, was andere mit ihm gemein haben</translation>
    </message>
    <message>
        <source>Give two or more files of the same camera, taken at different times</source>
        <translation>Zwei oder mehr Dateien derselben Kamera geben, zu verschiedenen Zeiten aufgenommen</translation>
    </message>
    <message>
        <source>The logo cannot be read</source>
        <translation>Das Bild ist nicht zu lesen</translation>
    </message>
    <message>
        <source>The logo is neither a PNG nor a JPEG</source>
        <translation>Das Bild ist weder PNG noch JPEG</translation>
    </message>
    <message>
        <source>Emptied: no present file</source>
        <translation>Geleert: keine vorhandene Datei</translation>
    </message>
    <message>
        <source>Emptied: no present file, %1 deleted ones still named</source>
        <translation>Geleert: keine vorhandene Datei, %1 gelöschte noch benannt</translation>
    </message>
    <message>
        <source>Emptied: no present file, %1 deleted one still named</source>
        <translation>Geleert: keine vorhandene Datei, %1 gelöschte noch benannt</translation>
    </message>
    <message>
        <source>Healthy as far as was looked, with %1 present file</source>
        <translation>Gesund, soweit angesehen, mit %1 vorhandenen Datei</translation>
    </message>
    <message>
        <source>Healthy as far as was looked, with %1 present files</source>
        <translation>Gesund, soweit angesehen, mit %1 vorhandenen Dateien</translation>
    </message>
    <message>
        <source>Healthy as far as was looked, with %1 present files, %2 deleted ones still named</source>
        <translation>Gesund, soweit angesehen, mit %1 vorhandenen Dateien, %2 gelöschten noch benannt</translation>
    </message>
    <message>
        <source>Healthy as far as was looked, with %1 present files, %2 deleted one still named</source>
        <translation>Gesund, soweit angesehen, mit %1 vorhandenen Dateien, %2 gelöschten noch benannt</translation>
    </message>
    <message>
        <source>%1 % of its free space holds data from before</source>
        <translation>%1 % des freien Raums enthalten Daten von vorher</translation>
    </message>
    <message>
        <source>its free space is blank</source>
        <translation>der freie Raum ist leer</translation>
    </message>
    <message>
        <source>Failing: a read near byte %1 has not come back after %2 seconds. Copy it before anything else, and do not unplug and replug it without need</source>
        <translation>Versagt: ein Lesen bei Byte %1 kam nach %2 Sekunden nicht zurück. Vor allem anderen kopieren, und ohne Not nicht aus- und wieder einstecken</translation>
    </message>
    <message>
        <source>Failing: %1 place of %2 could not be read, the first at byte %3. Copy it before anything else</source>
        <translation>Versagt: %1 Stelle von %2 war nicht zu lesen, die erste bei Byte %3. Vor allem anderen kopieren</translation>
    </message>
    <message>
        <source>Failing: %1 places of %2 could not be read, the first at byte %3. Copy it before anything else</source>
        <translation>Versagt: %1 Stellen von %2 waren nicht zu lesen, die erste bei Byte %3. Vor allem anderen kopieren</translation>
    </message>
    <message>
        <source>Failing: %1 read took longer than a second. Copy it before anything else</source>
        <translation>Versagt: %1 Lesen dauerte länger als eine Sekunde. Vor allem anderen kopieren</translation>
    </message>
    <message>
        <source>Failing: %1 reads took longer than a second. Copy it before anything else</source>
        <translation>Versagt: %1 Mal dauerte Lesen länger als eine Sekunde. Vor allem anderen kopieren</translation>
    </message>
    <message>
        <source>Looked at %1 places of %2 each, from the first byte to the last: %3 blank, %4 unreadable</source>
        <translation>Angesehen wurden %1 Stellen von je %2, vom ersten Byte bis zum letzten: %3 leer, %4 unlesbar</translation>
    </message>
    <message>
        <source>The slowest of these reads took %1 ms</source>
        <translation>Das langsamste Lesen dauerte %1 ms</translation>
    </message>
    <message>
        <source>The look was given up in the middle of a read</source>
        <translation>Das Ansehen wurde mitten in einem Lesen aufgegeben</translation>
    </message>
    <message>
        <source>Answers as %1, but its content repeats every %2: the card lies about its size. What was written beyond that is lost</source>
        <translation>Meldet sich mit %1, aber ihr Inhalt wiederholt sich alle %2: Die Karte lügt über ihre Größe. Was darüber hinaus geschrieben wurde, ist verloren</translation>
    </message>
    <message>
        <source>Blank: it reads back as zeros everywhere it was looked at. There is nothing to search for</source>
        <translation>Leer: Überall, wo sie angesehen wurde, stehen Nullen. Es gibt nichts zu suchen</translation>
    </message>
    <message>
        <source>Blank: it reads back as ones everywhere it was looked at. There is nothing to search for</source>
        <translation>Leer: Überall, wo sie angesehen wurde, stehen Einsen. Es gibt nichts zu suchen</translation>
    </message>
    <message>
        <source>Damaged at the beginning: a %1 volume of %2; its boot sector is gone, the copy at sector %3 is sound. It can be searched all the same</source>
        <translation>Am Anfang beschädigt: ein %1-Datenträger von %2; sein Bootsektor ist weg, die Kopie bei Sektor %3 ist in Ordnung. Sie kann trotzdem durchsucht werden</translation>
    </message>
    <message>
        <source>Holds data, but nothing that says how it was laid out: no volume, and no remains of one at its beginning. It can be searched by signature</source>
        <translation>Enthält Daten, aber nichts, was sagt, wie sie angelegt war: keinen Datenträger und keine Reste davon am Anfang. Sie kann nach Signaturen durchsucht werden</translation>
    </message>
    <message>
        <source>It has no partition table</source>
        <translation>Sie hat keine Partitionstabelle</translation>
    </message>
    <message>
        <source>Holds a %1 volume of %2, which is searched by signature only</source>
        <translation>Enthält einen %1-Datenträger von %2, der nur nach Signaturen durchsucht wird</translation>
    </message>
    <message>
        <source>Freshly formatted as %1: no files; %2 % of its free space holds data from before</source>
        <translation>Frisch formatiert als %1: keine Dateien; %2 % des freien Raums enthalten Daten von vorher</translation>
    </message>
    <message>
        <source>Freshly formatted as %1: no files; its free space is blank. Little or nothing can be found on it</source>
        <translation>Frisch formatiert als %1: keine Dateien; der freie Raum ist leer. Darauf ist wenig oder nichts zu finden</translation>
    </message>
</context>
</TS>
