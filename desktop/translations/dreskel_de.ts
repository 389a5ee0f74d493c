<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<TS version="2.1" language="de" sourcelanguage="en">
<context>
    <name>dreskel::Text</name>
    <message>
        <source>reading</source>
        <translation>Lesen</translation>
    </message>
    <message>
        <source>directories</source>
        <translation>Verzeichnisse</translation>
    </message>
    <message>
        <source>photos</source>
        <translation>Fotos</translation>
    </message>
    <message>
        <source>clips</source>
        <translation>Clips</translation>
    </message>
    <message>
        <source>sound</source>
        <translation>Ton</translation>
    </message>
    <message>
        <source>unexplained</source>
        <translation>Ungeklärt</translation>
    </message>
    <message numerus="yes">
        <source>keeping %n file(s)</source>
        <translation>
            <numerusform>%n Datei behalten</numerusform>
            <numerusform>%n Dateien behalten</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>letting go of %n file(s)</source>
        <translation>
            <numerusform>%n Datei losgelassen</numerusform>
            <numerusform>%n Dateien losgelassen</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>leaving out %n file(s)</source>
        <translation>
            <numerusform>%n Datei ausgelassen</numerusform>
            <numerusform>%n Dateien ausgelassen</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>taking in again %n file(s)</source>
        <translation>
            <numerusform>%n Datei wieder hereingenommen</numerusform>
            <numerusform>%n Dateien wieder hereingenommen</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>rating %n file(s)</source>
        <translation>
            <numerusform>%n Datei bewertet</numerusform>
            <numerusform>%n Dateien bewertet</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>the note of %n file(s)</source>
        <translation>
            <numerusform>die Notiz von %n Datei</numerusform>
            <numerusform>die Notiz von %n Dateien</numerusform>
        </translation>
    </message>
    <message>
        <source>Dark where &amp;pictures are</source>
        <translation>Dunkel, wo &amp;Bilder sind</translation>
    </message>
    <message>
        <source>&amp;Dark throughout</source>
        <translation>&amp;Ganz dunkel</translation>
    </message>
    <message>
        <source>&amp;Light throughout</source>
        <translation>Ganz &amp;hell</translation>
    </message>
    <message>
        <source>Whole: every byte decoded</source>
        <translation>Ganz: jedes Byte dekodiert</translation>
    </message>
    <message>
        <source>Partial: some of it decodes</source>
        <translation>Teilweise: ein Teil dekodiert</translation>
    </message>
    <message>
        <source>Broken: nothing of it decodes</source>
        <translation>Zerstört: nichts davon dekodiert</translation>
    </message>
    <message>
        <source>Not checked</source>
        <translation>Nicht geprüft</translation>
    </message>
    <message>
        <source>shoot</source>
        <translation>Aufnahmezeit</translation>
    </message>
    <message>
        <source>folder</source>
        <translation>Ordner</translation>
    </message>
    <message>
        <source>place</source>
        <translation>Stelle</translation>
    </message>
    <message>
        <source>camera</source>
        <translation>Kamera</translation>
    </message>
    <message>
        <source>format</source>
        <translation>Format</translation>
    </message>
    <message>
        <source>condition</source>
        <translation>Zustand</translation>
    </message>
    <message>
        <source>as it fits</source>
        <translation>wie es passt</translation>
    </message>
    <message>
        <source>the earliest</source>
        <translation>das Früheste</translation>
    </message>
    <message>
        <source>by name</source>
        <translation>nach Namen</translation>
    </message>
    <message>
        <source>the largest</source>
        <translation>das Größte</translation>
    </message>
    <message>
        <source>the longest</source>
        <translation>das Längste</translation>
    </message>
    <message>
        <source>the most damaged</source>
        <translation>das Schadhafteste</translation>
    </message>
    <message>
        <source>the best rated</source>
        <translation>das Bestbewertete</translation>
    </message>
    <message>
        <source>under 100 kB</source>
        <translation>unter 100 kB</translation>
    </message>
    <message>
        <source>100 kB to 1 MB</source>
        <translation>100 kB bis 1 MB</translation>
    </message>
    <message>
        <source>1 to 5 MB</source>
        <translation>1 bis 5 MB</translation>
    </message>
    <message>
        <source>5 to 20 MB</source>
        <translation>5 bis 20 MB</translation>
    </message>
    <message>
        <source>20 to 100 MB</source>
        <translation>20 bis 100 MB</translation>
    </message>
    <message>
        <source>100 MB to 1 GB</source>
        <translation>100 MB bis 1 GB</translation>
    </message>
    <message>
        <source>1 GB and more</source>
        <translation>1 GB und mehr</translation>
    </message>
    <message>
        <source>under 0.5 megapixels</source>
        <translation>unter 0,5 Megapixel</translation>
    </message>
    <message>
        <source>0.5 to 2 megapixels</source>
        <translation>0,5 bis 2 Megapixel</translation>
    </message>
    <message>
        <source>2 to 8 megapixels</source>
        <translation>2 bis 8 Megapixel</translation>
    </message>
    <message>
        <source>8 to 16 megapixels</source>
        <translation>8 bis 16 Megapixel</translation>
    </message>
    <message>
        <source>16 to 30 megapixels</source>
        <translation>16 bis 30 Megapixel</translation>
    </message>
    <message>
        <source>30 megapixels and more</source>
        <translation>30 Megapixel und mehr</translation>
    </message>
    <message>
        <source>under 10 s</source>
        <translation>unter 10 s</translation>
    </message>
    <message>
        <source>10 s to 1 min</source>
        <translation>10 s bis 1 min</translation>
    </message>
    <message>
        <source>1 to 10 min</source>
        <translation>1 bis 10 min</translation>
    </message>
    <message>
        <source>10 min and more</source>
        <translation>10 min und mehr</translation>
    </message>
    <message>
        <source>larger than %1</source>
        <translation>größer als %1</translation>
    </message>
    <message>
        <source>smaller than %1</source>
        <translation>kleiner als %1</translation>
    </message>
    <message>
        <source>longer than %1</source>
        <translation>länger als %1</translation>
    </message>
    <message>
        <source>shorter than %1</source>
        <translation>kürzer als %1</translation>
    </message>
    <message>
        <source>by kind</source>
        <translation>nach Art</translation>
    </message>
    <message>
        <source>by day</source>
        <translation>nach Tag</translation>
    </message>
    <message>
        <source>by camera</source>
        <translation>nach Kamera</translation>
    </message>
    <message>
        <source>client&apos;s folders</source>
        <translation>Ordner des Kunden</translation>
    </message>
    <message>
        <source>one folder</source>
        <translation>ein Ordner</translation>
    </message>
    <message>
        <source>for a camera</source>
        <translation>für eine Kamera</translation>
    </message>
    <message>
        <source>Band: the card from its first sector to its last</source>
        <translation>Band: die Karte vom ersten Sektor bis zum letzten</translation>
    </message>
    <message>
        <source>Byte %1</source>
        <translation>Byte %1</translation>
    </message>
    <message>
        <source>, tried %1 times</source>
        <translation>, %1 Mal versucht</translation>
    </message>
    <message>
        <source>%1, %2, %3
from byte %4</source>
        <translation>%1, %2, %3
ab Byte %4</translation>
    </message>
    <message>
        <source>The bytes</source>
        <translation>Die Bytes</translation>
    </message>
    <message>
        <source>, and other data</source>
        <translation>, und andere Daten</translation>
    </message>
    <message>
        <source>What nothing explains</source>
        <translation>Was nichts erklärt</translation>
    </message>
    <message>
        <source>Looking at what is left ...</source>
        <translation>Der Rest wird angesehen ...</translation>
    </message>
    <message>
        <source>From byte</source>
        <translation>Ab Byte</translation>
    </message>
    <message>
        <source>Size</source>
        <translation>Größe</translation>
    </message>
    <message>
        <source>Looks like</source>
        <translation>Sieht aus wie</translation>
    </message>
    <message>
        <source>Save all as raw pieces</source>
        <translation>Alles als rohe Stücke sichern</translation>
    </message>
    <message>
        <source>Each stretch as a file of its own, for another day and other programs</source>
        <translation>Jede Strecke als eigene Datei, für einen anderen Tag und andere Programme</translation>
    </message>
    <message>
        <source>Where to save the raw pieces</source>
        <translation>Wohin mit den rohen Stücken</translation>
    </message>
    <message>
        <source>Every sector belongs to a file, to the filesystem, or is blank.</source>
        <translation>Jeder Sektor gehört zu einer Datei, zum Dateisystem oder ist leer.</translation>
    </message>
    <message>
        <source>%1 in %2 stretches belong to no file and are no part of a filesystem. What each looks like is a guess from samples of it.</source>
        <translation>%1 in %2 Strecken gehören zu keiner Datei und zu keinem Dateisystem. Wonach jede aussieht, ist nach Stichproben geschätzt.</translation>
    </message>
    <message>
        <source> Blank ends of clusters, %1 together, are not listed.</source>
        <translation> Leere Enden von Clustern, zusammen %1, sind nicht aufgeführt.</translation>
    </message>
    <message>
        <source>Stop</source>
        <translation>Anhalten</translation>
    </message>
    <message>
        <source>Saving %1 raw pieces ...</source>
        <translation>%1 rohe Stücke werden gesichert ...</translation>
    </message>
    <message>
        <source>Saved %1 raw pieces, %2; read back and found the same: %3; not saved: %4.</source>
        <translation>%1 rohe Stücke gesichert, %2; zurückgelesen und gleich: %3; nicht gesichert: %4.</translation>
    </message>
    <message>
        <source>Compare an earlier delivery</source>
        <translation>Eine frühere Lieferung vergleichen</translation>
    </message>
    <message>
        <source>Every file that the manifest in a folder names is read again and compared with what was saved.</source>
        <translation>Jede Datei, die das Verzeichnis der Lieferung nennt, wird noch einmal gelesen und mit dem verglichen, was gesichert wurde.</translation>
    </message>
    <message>
        <source>The folder of the delivery</source>
        <translation>Der Ordner der Lieferung</translation>
    </message>
    <message>
        <source>The folder that files were saved to</source>
        <translation>Der Ordner, in den gesichert wurde</translation>
    </message>
    <message>
        <source>Choose</source>
        <translation>Wählen</translation>
    </message>
    <message>
        <source>Compare</source>
        <translation>Vergleichen</translation>
    </message>
    <message>
        <source>Files that are missing or changed</source>
        <translation>Dateien, die fehlen oder verändert sind</translation>
    </message>
    <message>
        <source>The folder of a delivery</source>
        <translation>Der Ordner einer Lieferung</translation>
    </message>
    <message>
        <source>Reading ...</source>
        <translation>Wird gelesen ...</translation>
    </message>
    <message>
        <source>All %1 files are as they were saved.</source>
        <translation>Alle %1 Dateien sind so, wie sie gesichert wurden.</translation>
    </message>
    <message>
        <source>%1 of %2 files are as they were saved; these are not:</source>
        <translation>%1 von %2 Dateien sind so, wie sie gesichert wurden; diese nicht:</translation>
    </message>
    <message>
        <source>Your shop</source>
        <translation>Ihre Werkstatt</translation>
    </message>
    <message>
        <source>A PNG or JPEG</source>
        <translation>Ein PNG oder JPEG</translation>
    </message>
    <message>
        <source>Use for reports</source>
        <translation>Für Berichte verwenden</translation>
    </message>
    <message>
        <source>&amp;Name</source>
        <translation>&amp;Name</translation>
    </message>
    <message>
        <source>&amp;Address</source>
        <translation>&amp;Anschrift</translation>
    </message>
    <message>
        <source>&amp;Picture</source>
        <translation>&amp;Bild</translation>
    </message>
    <message>
        <source>&amp;Language of reports</source>
        <translation>&amp;Sprache der Berichte</translation>
    </message>
    <message>
        <source>A&amp;dvice, a line each</source>
        <translation>&amp;Ratschläge, je eine Zeile</translation>
    </message>
    <message>
        <source>A picture for the head of reports</source>
        <translation>Ein Bild für den Kopf der Berichte</translation>
    </message>
    <message>
        <source>Pictures (*.png *.jpg *.jpeg)</source>
        <translation>Bilder (*.png *.jpg *.jpeg)</translation>
    </message>
    <message>
        <source>Keep this job small</source>
        <translation>Diesen Auftrag klein aufbewahren</translation>
    </message>
    <message>
        <source>What was found, decided, noted and delivered stays. The small pictures and waveforms go: the sheet is then without them, the loupe still shows every file while the card or its copy is there.</source>
        <translation>Was gefunden, entschieden, notiert und geliefert wurde, bleibt. Die kleinen Bilder und Wellenformen gehen: Der Bogen ist dann ohne sie, die Lupe zeigt weiterhin jede Datei, solange die Karte oder ihre Kopie da ist.</translation>
    </message>
    <message>
        <source>Delete the copy of the card, too: %1</source>
        <translation>Auch die Kopie der Karte löschen: %1</translation>
    </message>
    <message>
        <source>Nothing can be searched or saved from it afterwards</source>
        <translation>Danach kann nichts mehr daraus gesucht oder gesichert werden</translation>
    </message>
    <message>
        <source>Make it small</source>
        <translation>Klein machen</translation>
    </message>
    <message>
        <source>The job takes %1 now, before %2.</source>
        <translation>Der Auftrag braucht jetzt %1, vorher %2.</translation>
    </message>
    <message>
        <source> The copy of %1 was deleted.</source>
        <translation> Die Kopie von %1 wurde gelöscht.</translation>
    </message>
    <message numerus="yes">
        <source>%1 file(s)</source>
        <translation>
            <numerusform>%1 Datei</numerusform>
            <numerusform>%1 Dateien</numerusform>
        </translation>
    </message>
    <message>
        <source>, %1 not read yet</source>
        <translation>, %1 noch nicht gelesen</translation>
    </message>
    <message numerus="yes">
        <source>, %1 error(s)</source>
        <translation>
            <numerusform>, %1 Fehler</numerusform>
            <numerusform>, %1 Fehler</numerusform>
        </translation>
    </message>
    <message>
        <source>, %1 s left</source>
        <translation>, noch %1 s</translation>
    </message>
    <message>
        <source>, %1 min left</source>
        <translation>, noch %1 min</translation>
    </message>
    <message>
        <source>Copying, %1 of %2 at %3/s%4%5; %6</source>
        <translation>Wird kopiert, %1 von %2 mit %3/s%4%5; %6</translation>
    </message>
    <message>
        <source>Going closer to the bad places: %1 read%2%3</source>
        <translation>Es geht näher an die schlechten Stellen: %1 gelesen%2%3</translation>
    </message>
    <message>
        <source>Reading where the card stalled: %1 read%2</source>
        <translation>Gelesen wird, wo die Karte stockte: %1 gelesen%2</translation>
    </message>
    <message>
        <source>Trying bad sectors again: %1 missing</source>
        <translation>Schlechte Sektoren werden noch einmal versucht: %1 fehlen</translation>
    </message>
    <message>
        <source>Copied; making the checksum of the copy; %1</source>
        <translation>Kopiert; die Prüfsumme der Kopie wird gebildet; %1</translation>
    </message>
    <message>
        <source>This card is failing: %1 could not be read. Stop, and copy it first; every further read may be its last.</source>
        <translation>Diese Karte versagt: %1 war nicht zu lesen. Anhalten und sie zuerst kopieren; jedes weitere Lesen kann ihr letztes sein.</translation>
    </message>
    <message>
        <source>The reader has not answered for %1 s, at byte %2. Wait: pulling the card out now may be the end of it.</source>
        <translation>Das Lesegerät antwortet seit %1 s nicht, bei Byte %2. Warten: Die Karte jetzt zu ziehen kann ihr Ende sein.</translation>
    </message>
    <message>
        <source>This card is failing: %1 errors so far%2. Leave it in until the copy is through, and work on the copy only.</source>
        <translation>Diese Karte versagt: bisher %1 Fehler%2. Stecken lassen, bis die Kopie fertig ist, und nur mit der Kopie arbeiten.</translation>
    </message>
    <message>
        <source>, and it has become slower</source>
        <translation>, und sie ist langsamer geworden</translation>
    </message>
    <message>
        <source>Stopping after the step in hand</source>
        <translation>Nach dem laufenden Schritt wird angehalten</translation>
    </message>
    <message>
        <source>Paused at %1 of %2, %3</source>
        <translation>Pause bei %1 von %2, %3</translation>
    </message>
    <message>
        <source>Opening the job, %1 so far</source>
        <translation>Der Auftrag wird geöffnet, bisher %1</translation>
    </message>
    <message>
        <source>Named files checked: %1; nothing else was read</source>
        <translation>Benannte Dateien geprüft: %1; sonst wurde nichts gelesen</translation>
    </message>
    <message>
        <source>Search finished: %1, all checked</source>
        <translation>Suche fertig: %1, alles geprüft</translation>
    </message>
    <message>
        <source>Not searched yet</source>
        <translation>Noch nicht durchsucht</translation>
    </message>
    <message>
        <source>Stopped at %1 of %2, %3 so far</source>
        <translation>Angehalten bei %1 von %2, bisher %3</translation>
    </message>
    <message>
        <source>Putting files in pieces together, %1 done, %2 to try, %3 so far</source>
        <translation>Dateien in Stücken werden zusammengesetzt, %1 fertig, %2 noch zu versuchen, bisher %3</translation>
    </message>
    <message>
        <source>Checking what folders name, %1 to go, %2 so far</source>
        <translation>Geprüft wird, was Ordner nennen, noch %1, bisher %2</translation>
    </message>
    <message>
        <source>All read; checking what was found, %1 to go, %2 so far</source>
        <translation>Alles gelesen; das Gefundene wird geprüft, noch %1, bisher %2</translation>
    </message>
    <message>
        <source>Reading %1 of %2, %3%4</source>
        <translation>Gelesen %1 von %2, %3%4</translation>
    </message>
    <message>
        <source>Formats of your own</source>
        <translation>Eigene Formate</translation>
    </message>
    <message>
        <source>For files that a camera writes and Dreskel does not know. They are found by their first bytes, and end at their last ones, at the next file, or at their largest size. Nothing of them is decoded.</source>
        <translation>Für Dateien, die eine Kamera schreibt und die Dreskel nicht kennt. Gefunden werden sie an ihren ersten Bytes; sie enden mit ihren letzten, mit der nächsten Datei oder bei ihrer höchsten Größe. Dekodiert wird nichts davon.</translation>
    </message>
    <message>
        <source>Kept</source>
        <translation>Behalten</translation>
    </message>
    <message>
        <source>Formats of your own that are kept</source>
        <translation>Eigene Formate, die behalten wurden</translation>
    </message>
    <message>
        <source>Take it out</source>
        <translation>Herausnehmen</translation>
    </message>
    <message>
        <source>Learn one from two or more files of the same camera, or write it</source>
        <translation>Eines aus zwei oder mehr Dateien derselben Kamera lernen oder selbst schreiben</translation>
    </message>
    <message>
        <source>a short name for it, before samples are chosen</source>
        <translation>ein kurzer Name dafür, bevor Muster gewählt werden</translation>
    </message>
    <message>
        <source>Short name of the format</source>
        <translation>Kurzer Name des Formats</translation>
    </message>
    <message>
        <source>Kind of the format</source>
        <translation>Art des Formats</translation>
    </message>
    <message>
        <source>Choose sample files</source>
        <translation>Musterdateien wählen</translation>
    </message>
    <message>
        <source>Two or more files of one camera</source>
        <translation>Zwei oder mehr Dateien einer Kamera</translation>
    </message>
    <message>
        <source>Definition as JSON</source>
        <translation>Festlegung als JSON</translation>
    </message>
    <message>
        <source>Try it on this card</source>
        <translation>An dieser Karte versuchen</translation>
    </message>
    <message>
        <source>Keep it</source>
        <translation>Behalten</translation>
    </message>
    <message>
        <source>It can be used. What is kept is looked for in every search that begins after.</source>
        <translation>Es ist zu gebrauchen. Was behalten wird, sucht jede Suche, die danach beginnt.</translation>
    </message>
    <message>
        <source>It defines no format.</source>
        <translation>Es legt kein Format fest.</translation>
    </message>
    <message>
        <source>Looking for it on the card ...</source>
        <translation>Auf der Karte wird danach gesucht ...</translation>
    </message>
    <message>
        <source>Kept. Every search that begins from now on looks for it.</source>
        <translation>Behalten. Jede Suche, die von jetzt an beginnt, sucht danach.</translation>
    </message>
    <message>
        <source>card</source>
        <translation>Karte</translation>
    </message>
    <message>
        <source>Copy to</source>
        <translation>Kopieren nach</translation>
    </message>
    <message>
        <source>The file that takes the copy</source>
        <translation>Die Datei, die die Kopie aufnimmt</translation>
    </message>
    <message>
        <source>Where the copy goes</source>
        <translation>Wohin die Kopie kommt</translation>
    </message>
    <message>
        <source>Start</source>
        <translation>Beginnen</translation>
    </message>
    <message>
        <source>How often each sector that failed is tried again when all else is read</source>
        <translation>Wie oft jeder gescheiterte Sektor noch einmal versucht wird, wenn alles andere gelesen ist</translation>
    </message>
    <message>
        <source>no limit</source>
        <translation>ohne Grenze</translation>
    </message>
    <message>
        <source> min</source>
        <translation> min</translation>
    </message>
    <message>
        <source>The most time spent on bad places, after the first sweep</source>
        <translation>Die höchste Zeit für schlechte Stellen, nach dem ersten Durchgang</translation>
    </message>
    <message>
        <source> MB</source>
        <translation> MB</translation>
    </message>
    <message>
        <source>The part of the card that is copied</source>
        <translation>Der Teil der Karte, der kopiert wird</translation>
    </message>
    <message>
        <source>Later tries</source>
        <translation>Spätere Versuche</translation>
    </message>
    <message>
        <source>Time on bad places</source>
        <translation>Zeit für schlechte Stellen</translation>
    </message>
    <message>
        <source>From</source>
        <translation>Von</translation>
    </message>
    <message>
        <source>to</source>
        <translation>bis</translation>
    </message>
    <message>
        <source>The part to be copied ends before it begins</source>
        <translation>Der Teil, der kopiert werden soll, endet, bevor er beginnt</translation>
    </message>
    <message>
        <source>There is no such folder</source>
        <translation>Diesen Ordner gibt es nicht</translation>
    </message>
    <message>
        <source>There is a file of this name already; choose another</source>
        <translation>Eine Datei dieses Namens gibt es schon; einen anderen wählen</translation>
    </message>
    <message>
        <source>%1 needed, %2 free there%3</source>
        <translation>%1 nötig, %2 dort frei%3</translation>
    </message>
    <message>
        <source>: not enough room</source>
        <translation>: nicht genug Platz</translation>
    </message>
    <message>
        <source>The copy that was begun there goes on, if it is of this card</source>
        <translation>Die dort begonnene Kopie geht weiter, wenn sie von dieser Karte ist</translation>
    </message>
    <message numerus="yes">
        <source>%1 file(s) found</source>
        <translation>
            <numerusform>%1 Datei gefunden</numerusform>
            <numerusform>%1 Dateien gefunden</numerusform>
        </translation>
    </message>
    <message>
        <source>, %1 kept</source>
        <translation>, %1 behalten</translation>
    </message>
    <message>
        <source>not searched yet</source>
        <translation>noch nicht durchsucht</translation>
    </message>
    <message>
        <source>read to %1 %, %2%3</source>
        <translation>bis %1 % gelesen, %2%3</translation>
    </message>
    <message>
        <source>all read, still to be checked; %1%2</source>
        <translation>alles gelesen, noch zu prüfen; %1%2</translation>
    </message>
    <message>
        <source>%1 is not there now</source>
        <translation>%1 ist jetzt nicht da</translation>
    </message>
    <message>
        <source>d MMM, HH:mm</source>
        <translation>d. MMM, HH:mm</translation>
    </message>
    <message>
        <source>the source is not there</source>
        <translation>die Quelle ist nicht da</translation>
    </message>
    <message>
        <source>searched</source>
        <translation>durchsucht</translation>
    </message>
    <message>
        <source>to go on</source>
        <translation>geht weiter</translation>
    </message>
    <message>
        <source>Put a card in the reader, or open an image of one. Nothing is ever written to either.</source>
        <translation>Eine Karte ins Lesegerät stecken oder ein Abbild öffnen. Auf beides wird niemals geschrieben.</translation>
    </message>
    <message>
        <source>Open an image</source>
        <translation>Ein Abbild öffnen</translation>
    </message>
    <message>
        <source>A file that holds a card sector by sector (Ctrl+O)</source>
        <translation>Eine Datei, die eine Karte Sektor für Sektor enthält (Strg+O)</translation>
    </message>
    <message>
        <source>On the reader now</source>
        <translation>Jetzt im Lesegerät</translation>
    </message>
    <message>
        <source>No card is in a reader. One that is plugged in appears here by itself;
an image of a card can be opened above, or dropped anywhere on this page.</source>
        <translation>In keinem Lesegerät steckt eine Karte. Wird eine eingesteckt, erscheint sie hier von selbst;
ein Abbild lässt sich oben öffnen oder irgendwo auf dieser Seite ablegen.</translation>
    </message>
    <message>
        <source>UDisks2 does not answer on this computer. Cards are still seen, but opening one needs the right to read its device, and unmounting and ejecting have to be done by hand.</source>
        <translation>UDisks2 antwortet auf diesem Rechner nicht. Karten werden trotzdem gesehen, aber zum Öffnen braucht es das Recht, ihr Gerät zu lesen, und Aushängen und Auswerfen geht nur von Hand.</translation>
    </message>
    <message>
        <source>Jobs in hand</source>
        <translation>Aufträge in Arbeit</translation>
    </message>
    <message>
        <source>Hide the disks of this computer</source>
        <translation>Die Platten dieses Rechners verbergen</translation>
    </message>
    <message numerus="yes">
        <source>%n disk(s) of this computer not shown; show</source>
        <translation>
            <numerusform>%n Platte dieses Rechners nicht gezeigt; zeigen</numerusform>
            <numerusform>%n Platten dieses Rechners nicht gezeigt; zeigen</numerusform>
        </translation>
    </message>
    <message>
        <source>It is still being looked at; it can be let go of in a few seconds.</source>
        <translation>Sie wird noch angesehen; in ein paar Sekunden kann sie freigegeben werden.</translation>
    </message>
    <message>
        <source>It can be pulled out now.</source>
        <translation>Sie kann jetzt gezogen werden.</translation>
    </message>
    <message>
        <source>Each card that is opened becomes a job and stays here,
with what was found and decided.</source>
        <translation>Jede Karte, die geöffnet wird, wird ein Auftrag und bleibt hier,
mit dem, was gefunden und entschieden wurde.</translation>
    </message>
    <message>
        <source>Open an image of a card</source>
        <translation>Ein Abbild einer Karte öffnen</translation>
    </message>
    <message>
        <source>Partition %1: %2, from byte %3 on</source>
        <translation>Partition %1: %2, ab Byte %3</translation>
    </message>
    <message>
        <source>, mounted at %1</source>
        <translation>, eingehängt unter %1</translation>
    </message>
    <message>
        <source> and writable</source>
        <translation> und beschreibbar</translation>
    </message>
    <message>
        <source> for reading only</source>
        <translation> nur zum Lesen</translation>
    </message>
    <message>
        <source>What this rests on</source>
        <translation>Worauf das beruht</translation>
    </message>
    <message>
        <source>Offers its files only, over MTP or PTP: the sectors of its card cannot be read that way. Take the card out of it and put it into a reader.</source>
        <translation>Bietet nur seine Dateien an, über MTP oder PTP: Die Sektoren seiner Karte sind so nicht zu lesen. Die Karte herausnehmen und in ein Lesegerät stecken.</translation>
    </message>
    <message>
        <source>Unnamed</source>
        <translation>Ohne Namen</translation>
    </message>
    <message>
        <source>serial number %1</source>
        <translation>Seriennummer %1</translation>
    </message>
    <message>
        <source>sectors of %1 bytes</source>
        <translation>Sektoren von %1 Byte</translation>
    </message>
    <message>
        <source>locked against writing</source>
        <translation>gegen Schreiben gesperrt</translation>
    </message>
    <message>
        <source>A disk of this computer, not a card. Nothing has been read from it yet.</source>
        <translation>Eine Platte dieses Rechners, keine Karte. Von ihr wurde noch nichts gelesen.</translation>
    </message>
    <message>
        <source>Work on this disk all the same</source>
        <translation>Trotzdem an dieser Platte arbeiten</translation>
    </message>
    <message>
        <source>Search this card</source>
        <translation>Diese Karte durchsuchen</translation>
    </message>
    <message>
        <source>Search this disk</source>
        <translation>Diese Platte durchsuchen</translation>
    </message>
    <message>
        <source>Reads the card itself; better a copy when it is the only one or may fail</source>
        <translation>Liest die Karte selbst; besser eine Kopie, wenn sie die einzige ist oder versagen kann</translation>
    </message>
    <message>
        <source>Copy and search</source>
        <translation>Kopieren und durchsuchen</translation>
    </message>
    <message>
        <source>Copies every sector to an image and searches it from the same read</source>
        <translation>Kopiert jeden Sektor in ein Abbild und durchsucht es beim selben Lesen</translation>
    </message>
    <message>
        <source>Unmount it</source>
        <translation>Aushängen</translation>
    </message>
    <message>
        <source>Let go of it</source>
        <translation>Freigeben</translation>
    </message>
    <message>
        <source>Unmounts it and ejects it, or switches its reader off, so that it can be pulled out</source>
        <translation>Hängt sie aus und wirft sie aus oder schaltet ihr Lesegerät ab, damit sie gezogen werden kann</translation>
    </message>
    <message>
        <source> and </source>
        <translation> und </translation>
    </message>
    <message>
        <source>Mounted at %1, for reading only.</source>
        <translation>Eingehängt unter %1, nur zum Lesen.</translation>
    </message>
    <message>
        <source>Mounted at %1 and writable: other programs may change it at any moment. Unmount it before any work.</source>
        <translation>Eingehängt unter %1 und beschreibbar: Andere Programme können sie jederzeit verändern. Vor jeder Arbeit aushängen.</translation>
    </message>
    <message>
        <source> UDisks2 does not answer, so that has to be done by hand.</source>
        <translation> UDisks2 antwortet nicht, also geht das nur von Hand.</translation>
    </message>
    <message>
        <source>Looking at it; the first answer takes up to five seconds ...</source>
        <translation>Sie wird angesehen; die erste Antwort dauert bis zu fünf Sekunden ...</translation>
    </message>
    <message>
        <source>Volumes on the card, to scale</source>
        <translation>Datenträger auf der Karte, im Maßstab</translation>
    </message>
    <message>
        <source>On the sheet</source>
        <translation>Auf dem Bogen</translation>
    </message>
    <message>
        <source>arrows, Home, End, Page</source>
        <translation>Pfeile, Pos1, Ende, Bild</translation>
    </message>
    <message>
        <source>go from file to file; with Shift they select</source>
        <translation>von Datei zu Datei; mit Umschalt wählen sie aus</translation>
    </message>
    <message>
        <source>Space or K</source>
        <translation>Leertaste oder K</translation>
    </message>
    <message>
        <source>keep, or let go</source>
        <translation>behalten oder loslassen</translation>
    </message>
    <message>
        <source>X</source>
        <translation>X</translation>
    </message>
    <message>
        <source>leave out, or take in again</source>
        <translation>auslassen oder wieder hereinnehmen</translation>
    </message>
    <message>
        <source>1 to 5, 0</source>
        <translation>1 bis 5, 0</translation>
    </message>
    <message>
        <source>rate; no rating</source>
        <translation>bewerten; ohne Wertung</translation>
    </message>
    <message>
        <source>C</source>
        <translation>C</translation>
    </message>
    <message>
        <source>two photos side by side</source>
        <translation>zwei Fotos nebeneinander</translation>
    </message>
    <message>
        <source>Return</source>
        <translation>Eingabe</translation>
    </message>
    <message>
        <source>the next that is not whole</source>
        <translation>das nächste, das nicht ganz ist</translation>
    </message>
    <message>
        <source>Ctrl+A</source>
        <translation>Strg+A</translation>
    </message>
    <message>
        <source>select everything that is shown</source>
        <translation>alles Gezeigte auswählen</translation>
    </message>
    <message>
        <source>Ctrl+Z, Ctrl+Shift+Z</source>
        <translation>Strg+Z, Strg+Umschalt+Z</translation>
    </message>
    <message>
        <source>take a decision back, or on again</source>
        <translation>eine Entscheidung zurück, oder wieder vor</translation>
    </message>
    <message>
        <source>Finding</source>
        <translation>Finden</translation>
    </message>
    <message>
        <source>Ctrl+F</source>
        <translation>Strg+F</translation>
    </message>
    <message>
        <source>words, &gt;2MB, &lt;30s, #14,27</source>
        <translation>Wörter, &gt;2MB, &lt;30s, #14,27</translation>
    </message>
    <message>
        <source>N</source>
        <translation>N</translation>
    </message>
    <message>
        <source>narrow by camera, day, format and more</source>
        <translation>einengen nach Kamera, Tag, Format und mehr</translation>
    </message>
    <message>
        <source>Q</source>
        <translation>Q</translation>
    </message>
    <message>
        <source>what the client asked for; notes</source>
        <translation>was der Kunde sich wünscht; Notizen</translation>
    </message>
    <message>
        <source>L</source>
        <translation>L</translation>
    </message>
    <message>
        <source>more that looks like this one</source>
        <translation>mehr, was so aussieht</translation>
    </message>
    <message>
        <source>to the first that was found</source>
        <translation>zum ersten Gefundenen</translation>
    </message>
    <message>
        <source>Esc</source>
        <translation>Esc</translation>
    </message>
    <message>
        <source>show all again</source>
        <translation>wieder alle zeigen</translation>
    </message>
    <message>
        <source>The search</source>
        <translation>Die Suche</translation>
    </message>
    <message>
        <source>Ctrl+Return</source>
        <translation>Strg+Eingabe</translation>
    </message>
    <message>
        <source>start or go on</source>
        <translation>beginnen oder weitermachen</translation>
    </message>
    <message>
        <source>Ctrl+P</source>
        <translation>Strg+P</translation>
    </message>
    <message>
        <source>pause or go on</source>
        <translation>Pause oder weiter</translation>
    </message>
    <message>
        <source>Ctrl+.</source>
        <translation>Strg+.</translation>
    </message>
    <message>
        <source>stop</source>
        <translation>anhalten</translation>
    </message>
    <message>
        <source>Ctrl+L</source>
        <translation>Strg+L</translation>
    </message>
    <message>
        <source>lend a good clip or photo</source>
        <translation>einen guten Clip oder ein Foto leihen</translation>
    </message>
    <message>
        <source>A photo, looked at</source>
        <translation>Ein Foto ansehen</translation>
    </message>
    <message>
        <source>F</source>
        <translation>F</translation>
    </message>
    <message>
        <source>the whole picture</source>
        <translation>das ganze Bild</translation>
    </message>
    <message>
        <source>Z</source>
        <translation>Z</translation>
    </message>
    <message>
        <source>a pixel of it on each of the screen</source>
        <translation>ein Bildpunkt auf jedem des Schirms</translation>
    </message>
    <message>
        <source>+ and -</source>
        <translation>+ und -</translation>
    </message>
    <message>
        <source>closer, farther</source>
        <translation>näher, weiter weg</translation>
    </message>
    <message>
        <source>R, Shift+R</source>
        <translation>R, Umschalt+R</translation>
    </message>
    <message>
        <source>a quarter turn</source>
        <translation>eine Vierteldrehung</translation>
    </message>
    <message>
        <source>S</source>
        <translation>S</translation>
    </message>
    <message>
        <source>take its joins apart</source>
        <translation>seine Nähte lösen</translation>
    </message>
    <message>
        <source>A clip or a recording</source>
        <translation>Ein Clip oder eine Aufnahme</translation>
    </message>
    <message>
        <source>P</source>
        <translation>P</translation>
    </message>
    <message>
        <source>play, stand still, play on</source>
        <translation>abspielen, stillstehen, weiter</translation>
    </message>
    <message>
        <source>, and .</source>
        <translation>, und .</translation>
    </message>
    <message>
        <source>the picture before, the next one</source>
        <translation>das Bild davor, das nächste</translation>
    </message>
    <message>
        <source>On the splice bench</source>
        <translation>Auf der Spleißbank</translation>
    </message>
    <message>
        <source>Page up, Page down</source>
        <translation>Bild auf, Bild ab</translation>
    </message>
    <message>
        <source>the join before, the next one</source>
        <translation>die Naht davor, die nächste</translation>
    </message>
    <message>
        <source>back a step, on again</source>
        <translation>einen Schritt zurück, wieder vor</translation>
    </message>
    <message>
        <source>back to the sheet</source>
        <translation>zurück zum Bogen</translation>
    </message>
    <message>
        <source>The card</source>
        <translation>Die Karte</translation>
    </message>
    <message>
        <source>Ctrl+O</source>
        <translation>Strg+O</translation>
    </message>
    <message>
        <source>open an image</source>
        <translation>ein Abbild öffnen</translation>
    </message>
    <message>
        <source>Ctrl+Home</source>
        <translation>Strg+Pos1</translation>
    </message>
    <message>
        <source>all cards and jobs</source>
        <translation>alle Karten und Aufträge</translation>
    </message>
    <message>
        <source>Ctrl+E</source>
        <translation>Strg+E</translation>
    </message>
    <message>
        <source>let go of the card</source>
        <translation>die Karte freigeben</translation>
    </message>
    <message>
        <source>Keys</source>
        <translation>Tasten</translation>
    </message>
    <message>
        <source> volume</source>
        <translation>-Datenträger</translation>
    </message>
    <message>
        <source>no volume that can be read</source>
        <translation>kein lesbarer Datenträger</translation>
    </message>
    <message>
        <source>a damaged volume</source>
        <translation>ein beschädigter Datenträger</translation>
    </message>
    <message>
        <source>It is; go on with the copy</source>
        <translation>Sie ist es; mit der Kopie weitermachen</translation>
    </message>
    <message>
        <source>Let go of the card</source>
        <translation>Die Karte freigeben</translation>
    </message>
    <message>
        <source>The copy is not finished. Put the card back in and it can go on; what was read is kept.</source>
        <translation>Die Kopie ist nicht fertig. Mit der Karte im Lesegerät kann sie weitergehen; was gelesen ist, bleibt.</translation>
    </message>
    <message>
        <source>The copy is not finished. At %1 is a card of the same size%2. Is it this one? Its contents are compared before anything is written.</source>
        <translation>Die Kopie ist nicht fertig. Bei %1 ist eine Karte gleicher Größe%2. Ist es diese? Ihr Inhalt wird verglichen, bevor etwas geschrieben wird.</translation>
    </message>
    <message>
        <source> and serial number</source>
        <translation> und Seriennummer</translation>
    </message>
    <message>
        <source>The card has been read; everything else works on the copy. It can be taken out.</source>
        <translation>Die Karte ist gelesen; alles Weitere arbeitet mit der Kopie. Sie kann heraus.</translation>
    </message>
    <message>
        <source>All cards</source>
        <translation>Alle Karten</translation>
    </message>
    <message>
        <source>Back to the cards and jobs; a search goes on when asked to</source>
        <translation>Zurück zu Karten und Aufträgen; eine Suche geht weiter, wenn man es verlangt</translation>
    </message>
    <message>
        <source>%1, copy of %2</source>
        <translation>%1, Kopie von %2</translation>
    </message>
    <message>
        <source>%1, opened for reading only</source>
        <translation>%1, nur zum Lesen geöffnet</translation>
    </message>
    <message>
        <source>%1, %2, opened for reading only</source>
        <translation>%1, %2, nur zum Lesen geöffnet</translation>
    </message>
    <message>
        <source>Find: name, camera, date, &gt;2MB</source>
        <translation>Finden: Name, Kamera, Datum, &gt;2MB</translation>
    </message>
    <message>
        <source>Find files</source>
        <translation>Dateien finden</translation>
    </message>
    <message>
        <source>Words of a name, folder, camera, format or date, in any order; &gt;2MB, &lt;500KB, &gt;30s, &lt;2min; #17 for file 17. Ctrl+F comes here, Esc shows all again</source>
        <translation>Wörter eines Namens, Ordners, einer Kamera, eines Formats oder Datums, in beliebiger Folge; &gt;2MB, &lt;500KB, &gt;30s, &lt;2min; #17 für Datei 17. Strg+F führt hierher, Esc zeigt wieder alle</translation>
    </message>
    <message>
        <source>Pause</source>
        <translation>Pause</translation>
    </message>
    <message>
        <source>A file can be lent when the search has stopped or finished.</source>
        <translation>Eine Datei kann geliehen werden, wenn die Suche angehalten oder fertig ist.</translation>
    </message>
    <message>
        <source>%1 is tried on clips without an index and photos without a beginning.</source>
        <translation>%1 wird an Clips ohne Index und Fotos ohne Anfang versucht.</translation>
    </message>
    <message>
        <source>Nothing to take back</source>
        <translation>Nichts zurückzunehmen</translation>
    </message>
    <message>
        <source>Taken back: </source>
        <translation>Zurückgenommen: </translation>
    </message>
    <message>
        <source>Nothing was taken back</source>
        <translation>Nichts wurde zurückgenommen</translation>
    </message>
    <message>
        <source>Done again: </source>
        <translation>Noch einmal getan: </translation>
    </message>
    <message>
        <source>Comparing pictures ...</source>
        <translation>Bilder werden verglichen ...</translation>
    </message>
    <message>
        <source>Looking for %1 ...</source>
        <translation>%1 wird gesucht ...</translation>
    </message>
    <message>
        <source>Go on</source>
        <translation>Weiter</translation>
    </message>
    <message>
        <source>%1 unexplained</source>
        <translation>%1 ungeklärt</translation>
    </message>
    <message>
        <source>The whole card: %1 in files, %2 filesystem, %3 blank, %4 unreadable, %5 unexplained, %6 not looked at; together %7</source>
        <translation>Die ganze Karte: %1 in Dateien, %2 Dateisystem, %3 leer, %4 unlesbar, %5 ungeklärt, %6 nicht angesehen; zusammen %7</translation>
    </message>
    <message>
        <source>Two photos are needed to compare them.</source>
        <translation>Zum Vergleichen braucht es zwei Fotos.</translation>
    </message>
    <message>
        <source>bytes</source>
        <translation>Byte</translation>
    </message>
    <message>
        <source>whole</source>
        <translation>ganz</translation>
    </message>
    <message>
        <source>partial, %1 % decodes</source>
        <translation>teilweise, %1 % dekodiert</translation>
    </message>
    <message>
        <source>broken</source>
        <translation>zerstört</translation>
    </message>
    <message>
        <source>not checked</source>
        <translation>nicht geprüft</translation>
    </message>
    <message>
        <source>d MMMM yyyy, HH:mm:ss</source>
        <translation>d. MMMM yyyy, HH:mm:ss</translation>
    </message>
    <message>
        <source>photo</source>
        <translation>Foto</translation>
    </message>
    <message>
        <source>clip</source>
        <translation>Clip</translation>
    </message>
    <message>
        <source>recording</source>
        <translation>Aufnahme</translation>
    </message>
    <message>
        <source>recordings</source>
        <translation>Aufnahmen</translation>
    </message>
    <message>
        <source>other file</source>
        <translation>andere Datei</translation>
    </message>
    <message>
        <source>other files</source>
        <translation>andere Dateien</translation>
    </message>
    <message>
        <source>No frame of this clip decodes</source>
        <translation>Kein Bild dieses Clips dekodiert</translation>
    </message>
    <message>
        <source>Frames of the clip along its length</source>
        <translation>Bilder des Clips über seine Länge</translation>
    </message>
    <message>
        <source> of </source>
        <translation> von </translation>
    </message>
    <message>
        <source>Photo %1</source>
        <translation>Foto %1</translation>
    </message>
    <message>
        <source>kept</source>
        <translation>behalten</translation>
    </message>
    <message>
        <source>left out</source>
        <translation>ausgelassen</translation>
    </message>
    <message>
        <source>rated %1 of %2</source>
        <translation>bewertet mit %1 von %2</translation>
    </message>
    <message>
        <source>Two photos side by side</source>
        <translation>Zwei Fotos nebeneinander</translation>
    </message>
    <message>
        <source>Left and right: another photo in the framed half. Tab: the other half. K keeps, X leaves out, 1 to 5 rate, + and − zoom, F fits, Z one to one. Esc: back to the sheet.</source>
        <translation>Links und rechts: ein anderes Foto in der gerahmten Hälfte. Tab: die andere Hälfte. K behält, X lässt aus, 1 bis 5 bewerten, + und − zoomen, F passt ein, Z eins zu eins. Esc: zurück zum Bogen.</translation>
    </message>
    <message>
        <source>Copy the facts</source>
        <translation>Angaben kopieren</translation>
    </message>
    <message>
        <source>Histogram</source>
        <translation>Histogramm</translation>
    </message>
    <message>
        <source>Histogram: %1 % as dark as can be, %2 % as bright as can be</source>
        <translation>Histogramm: %1 % so dunkel wie möglich, %2 % so hell wie möglich</translation>
    </message>
    <message>
        <source>Loupe</source>
        <translation>Lupe</translation>
    </message>
    <message>
        <source>Choose a file on the sheet to see it here</source>
        <translation>Eine Datei auf dem Bogen wählen, um sie hier zu sehen</translation>
    </message>
    <message>
        <source>Fit</source>
        <translation>Einpassen</translation>
    </message>
    <message>
        <source>The whole picture (F)</source>
        <translation>Das ganze Bild (F)</translation>
    </message>
    <message>
        <source>A pixel of the photo on each of the screen (Z)</source>
        <translation>Ein Bildpunkt des Fotos auf jedem des Schirms (Z)</translation>
    </message>
    <message>
        <source>Turn</source>
        <translation>Drehen</translation>
    </message>
    <message>
        <source>A quarter turn to the right (R)</source>
        <translation>Eine Vierteldrehung nach rechts (R)</translation>
    </message>
    <message>
        <source>Splice</source>
        <translation>Spleißen</translation>
    </message>
    <message>
        <source>Take its joins apart and set them anew (S)</source>
        <translation>Seine Nahtstellen lösen und neu setzen (S)</translation>
    </message>
    <message>
        <source>Large</source>
        <translation>Groß</translation>
    </message>
    <message>
        <source>Note for this file</source>
        <translation>Notiz zu dieser Datei</translation>
    </message>
    <message>
        <source>Play</source>
        <translation>Abspielen</translation>
    </message>
    <message>
        <source>Play it from its pieces on the card (P)</source>
        <translation>Aus seinen Stücken auf der Karte abspielen (P)</translation>
    </message>
    <message>
        <source>Frame back</source>
        <translation>Bild zurück</translation>
    </message>
    <message>
        <source>The picture before (,)</source>
        <translation>Das Bild davor (,)</translation>
    </message>
    <message>
        <source>Frame on</source>
        <translation>Bild vor</translation>
    </message>
    <message>
        <source>The next picture (.)</source>
        <translation>Das nächste Bild (.)</translation>
    </message>
    <message>
        <source>It does not play: %1</source>
        <translation>Es läuft nicht: %1</translation>
    </message>
    <message>
        <source>%1 of %2</source>
        <translation>%1 von %2</translation>
    </message>
    <message>
        <source>Decoding ...</source>
        <translation>Wird dekodiert ...</translation>
    </message>
    <message>
        <source>south</source>
        <translation>Süd</translation>
    </message>
    <message>
        <source>north</source>
        <translation>Nord</translation>
    </message>
    <message>
        <source>west</source>
        <translation>West</translation>
    </message>
    <message>
        <source>east</source>
        <translation>Ost</translation>
    </message>
    <message>
        <source>Join %1</source>
        <translation>Naht %1</translation>
    </message>
    <message>
        <source>at byte %1: %2 (%3 %)</source>
        <translation>bei Byte %1: %2 (%3 %)</translation>
    </message>
    <message>
        <source>and %1 more</source>
        <translation>und %1 weitere</translation>
    </message>
    <message>
        <source>Made</source>
        <translation>Gemacht</translation>
    </message>
    <message>
        <source>%1 bytes: %2</source>
        <translation>%1 Byte: %2</translation>
    </message>
    <message>
        <source>, of %1</source>
        <translation>, vom %1</translation>
    </message>
    <message>
        <source>a present file</source>
        <translation>eine vorhandene Datei</translation>
    </message>
    <message>
        <source>deleted, still named</source>
        <translation>gelöscht, noch benannt</translation>
    </message>
    <message>
        <source>a folder from before a format</source>
        <translation>ein Ordner von vor dem Formatieren</translation>
    </message>
    <message>
        <source>, in %1 pieces</source>
        <translation>, in %1 Stücken</translation>
    </message>
    <message>
        <source>; kept</source>
        <translation>; behalten</translation>
    </message>
    <message>
        <source>; left out</source>
        <translation>; ausgelassen</translation>
    </message>
    <message>
        <source>; rated %1 of %2</source>
        <translation>; bewertet mit %1 von %2</translation>
    </message>
    <message>
        <source>Taken</source>
        <translation>Aufgenommen</translation>
    </message>
    <message>
        <source>Camera</source>
        <translation>Kamera</translation>
    </message>
    <message>
        <source>Position</source>
        <translation>Ort</translation>
    </message>
    <message>
        <source>Picture</source>
        <translation>Bild</translation>
    </message>
    <message>
        <source>Length</source>
        <translation>Länge</translation>
    </message>
    <message>
        <source>Frame rate</source>
        <translation>Bildrate</translation>
    </message>
    <message>
        <source>%1 a second</source>
        <translation>%1 in der Sekunde</translation>
    </message>
    <message>
        <source>Coding</source>
        <translation>Kodierung</translation>
    </message>
    <message>
        <source>File</source>
        <translation>Datei</translation>
    </message>
    <message>
        <source>%1, %2 bytes</source>
        <translation>%1, %2 Byte</translation>
    </message>
    <message>
        <source>On the card</source>
        <translation>Auf der Karte</translation>
    </message>
    <message>
        <source>from byte %1</source>
        <translation>ab Byte %1</translation>
    </message>
    <message>
        <source>Name</source>
        <translation>Name</translation>
    </message>
    <message>
        <source>Folder</source>
        <translation>Ordner</translation>
    </message>
    <message>
        <source>not known, or the root</source>
        <translation>nicht bekannt, oder die Wurzel</translation>
    </message>
    <message>
        <source>Directory</source>
        <translation>Verzeichnis</translation>
    </message>
    <message>
        <source>Every block of the picture decoded, and the file ends where the data do.</source>
        <translation>Jeder Block des Bildes dekodiert, und die Datei endet, wo die Daten enden.</translation>
    </message>
    <message>
        <source>Every packet decoded without an error, and the file ends where its own structure says.</source>
        <translation>Jedes Paket dekodiert ohne Fehler, und die Datei endet, wo ihr eigener Aufbau es sagt.</translation>
    </message>
    <message>
        <source>The same bytes as file %1.</source>
        <translation>Dieselben Bytes wie Datei %1.</translation>
    </message>
    <message>
        <source>Back</source>
        <translation>Zurück</translation>
    </message>
    <message>
        <source>Back to the sheet (Esc)</source>
        <translation>Zurück zum Bogen (Esc)</translation>
    </message>
    <message>
        <source>Photo</source>
        <translation>Foto</translation>
    </message>
    <message>
        <source>Waveform of the recording</source>
        <translation>Wellenform der Aufnahme</translation>
    </message>
    <message>
        <source>No sound of it decodes</source>
        <translation>Kein Ton davon dekodiert</translation>
    </message>
    <message>
        <source>&amp;Card</source>
        <translation>&amp;Karte</translation>
    </message>
    <message>
        <source>&amp;Open an image</source>
        <translation>Ein Abbild ö&amp;ffnen</translation>
    </message>
    <message>
        <source>&amp;All cards and jobs</source>
        <translation>&amp;Alle Karten und Aufträge</translation>
    </message>
    <message>
        <source>&amp;Let go of the card</source>
        <translation>Die Karte frei&amp;geben</translation>
    </message>
    <message>
        <source>&amp;Quit</source>
        <translation>&amp;Beenden</translation>
    </message>
    <message>
        <source>&amp;Search</source>
        <translation>&amp;Suche</translation>
    </message>
    <message>
        <source>&amp;Start or go on</source>
        <translation>&amp;Beginnen oder weitermachen</translation>
    </message>
    <message>
        <source>&amp;Pause or go on</source>
        <translation>&amp;Pause oder weiter</translation>
    </message>
    <message>
        <source>S&amp;top</source>
        <translation>An&amp;halten</translation>
    </message>
    <message>
        <source>&amp;Lend a good clip or photo</source>
        <translation>Einen guten Clip oder ein Foto &amp;leihen</translation>
    </message>
    <message>
        <source>A good file of the same camera and settings</source>
        <translation>Eine gute Datei derselben Kamera mit denselben Einstellungen</translation>
    </message>
    <message>
        <source>&amp;Formats of your own</source>
        <translation>Eigene &amp;Formate</translation>
    </message>
    <message>
        <source>&amp;Files</source>
        <translation>&amp;Dateien</translation>
    </message>
    <message>
        <source>&amp;Find</source>
        <translation>&amp;Finden</translation>
    </message>
    <message>
        <source>&amp;Compare two photos	C</source>
        <translation>Zwei Fotos &amp;vergleichen	C</translation>
    </message>
    <message>
        <source>&amp;More like this one	L</source>
        <translation>&amp;Mehr wie dieses	L</translation>
    </message>
    <message>
        <source>Look for a file that you &amp;have</source>
        <translation>Eine Datei suchen, die man &amp;hat</translation>
    </message>
    <message>
        <source>A file, or a picture in any size, that may be on the card</source>
        <translation>Eine Datei, oder ein Bild in beliebiger Größe, die auf der Karte sein kann</translation>
    </message>
    <message>
        <source>Select &amp;all that is shown	Ctrl+A</source>
        <translation>&amp;Alles Gezeigte auswählen	Strg+A</translation>
    </message>
    <message>
        <source>&amp;Play or stand still	P</source>
        <translation>&amp;Abspielen oder stillstehen	P</translation>
    </message>
    <message>
        <source>&amp;Keep or let go</source>
        <translation>&amp;Behalten oder loslassen</translation>
    </message>
    <message>
        <source>Lea&amp;ve out or take in again	X</source>
        <translation>Aus&amp;lassen oder wieder hereinnehmen	X</translation>
    </message>
    <message>
        <source>&amp;Rate</source>
        <translation>Be&amp;werten</translation>
    </message>
    <message>
        <source>No rating	0</source>
        <translation>Ohne Wertung	0</translation>
    </message>
    <message>
        <source>%1 of %2	%1</source>
        <translation>%1 von %2	%1</translation>
    </message>
    <message>
        <source>Narro&amp;w what is shown	N</source>
        <translation>Das Gezeigte &amp;einengen	N</translation>
    </message>
    <message>
        <source>What was as&amp;ked for, and notes	Q</source>
        <translation>Was gewünscht ist, und Noti&amp;zen	Q</translation>
    </message>
    <message>
        <source>&amp;Undo</source>
        <translation>&amp;Rückgängig</translation>
    </message>
    <message>
        <source>&amp;Redo</source>
        <translation>W&amp;iederholen</translation>
    </message>
    <message>
        <source>&amp;Delivery</source>
        <translation>&amp;Lieferung</translation>
    </message>
    <message>
        <source>Your &amp;shop, for reports</source>
        <translation>Ihre &amp;Werkstatt, für Berichte</translation>
    </message>
    <message>
        <source>&amp;Compare an earlier delivery</source>
        <translation>Eine frühere Lieferung &amp;vergleichen</translation>
    </message>
    <message>
        <source>&amp;Keep this job small</source>
        <translation>Diesen Auftrag &amp;klein aufbewahren</translation>
    </message>
    <message>
        <source>&amp;View</source>
        <translation>&amp;Ansicht</translation>
    </message>
    <message>
        <source>&amp;Language</source>
        <translation>&amp;Sprache</translation>
    </message>
    <message>
        <source>The computer&apos;s own</source>
        <translation>Die des Rechners</translation>
    </message>
    <message>
        <source>&amp;Help</source>
        <translation>&amp;Hilfe</translation>
    </message>
    <message>
        <source>&amp;Keys</source>
        <translation>&amp;Tasten</translation>
    </message>
    <message>
        <source>Opening ...</source>
        <translation>Wird geöffnet ...</translation>
    </message>
    <message>
        <source>Files are being saved; the windows can be made anew after that.</source>
        <translation>Es wird gesichert; danach können die Fenster neu aufgebaut werden.</translation>
    </message>
    <message>
        <source>The card is not there: what was found can be looked through, nothing can be searched or saved until it is attached and the job opened again.</source>
        <translation>Die Karte ist nicht da: Das Gefundene kann angesehen werden; gesucht oder gesichert werden kann erst, wenn sie angeschlossen und der Auftrag neu geöffnet ist.</translation>
    </message>
    <message>
        <source>The card is still being read. Stop that first.</source>
        <translation>Die Karte wird noch gelesen. Erst das anhalten.</translation>
    </message>
    <message>
        <source>This job reads an image; no card is held by it.</source>
        <translation>Dieser Auftrag liest ein Abbild; er hält keine Karte.</translation>
    </message>
    <message>
        <source>The card can be pulled out now.</source>
        <translation>Die Karte kann jetzt gezogen werden.</translation>
    </message>
    <message>
        <source>%1 is not among the files: neither its bytes nor its picture.</source>
        <translation>%1 ist nicht unter den Dateien: weder seine Bytes noch sein Bild.</translation>
    </message>
    <message>
        <source>The bytes of %1 are not among the files; no picture of it could be compared.</source>
        <translation>Die Bytes von %1 sind nicht unter den Dateien; ein Bild davon war nicht zu vergleichen.</translation>
    </message>
    <message>
        <source>The bytes or the picture of %1</source>
        <translation>Die Bytes oder das Bild von %1</translation>
    </message>
    <message>
        <source>The picture of %1</source>
        <translation>Das Bild von %1</translation>
    </message>
    <message>
        <source>There is too little to see on this one to look for others like it.</source>
        <translation>Auf diesem ist zu wenig zu sehen, um nach ähnlichen zu suchen.</translation>
    </message>
    <message>
        <source>Looks like number %1</source>
        <translation>Sieht aus wie Nummer %1</translation>
    </message>
    <message>
        <source>dddd d MMMM yyyy, HH:mm</source>
        <translation>dddd, d. MMMM yyyy, HH:mm</translation>
    </message>
    <message>
        <source> to </source>
        <translation> bis </translation>
    </message>
    <message>
        <source>d MMMM, HH:mm</source>
        <translation>d. MMMM, HH:mm</translation>
    </message>
    <message>
        <source>No date known</source>
        <translation>Kein Datum bekannt</translation>
    </message>
    <message>
        <source>In the root, or in a folder whose name is lost</source>
        <translation>In der Wurzel oder in einem Ordner, dessen Name verloren ist</translation>
    </message>
    <message>
        <source>No directory speaks of them</source>
        <translation>Kein Verzeichnis weiß von ihnen</translation>
    </message>
    <message>
        <source>Camera not known</source>
        <translation>Kamera nicht bekannt</translation>
    </message>
    <message>
        <source>Format not known</source>
        <translation>Format nicht bekannt</translation>
    </message>
    <message>
        <source>From the first sector to the last</source>
        <translation>Vom ersten Sektor bis zum letzten</translation>
    </message>
    <message>
        <source>What the client asked for</source>
        <translation>Was der Kunde sich wünscht</translation>
    </message>
    <message>
        <source>Something that was asked for</source>
        <translation>Etwas, das gewünscht ist</translation>
    </message>
    <message>
        <source>Write it down, then Return</source>
        <translation>Aufschreiben, dann Eingabe</translation>
    </message>
    <message>
        <source>What was asked for</source>
        <translation>Was gewünscht ist</translation>
    </message>
    <message>
        <source>The selected files are it</source>
        <translation>Die gewählten Dateien sind es</translation>
    </message>
    <message>
        <source>Ticks the line and remembers the files that answer it</source>
        <translation>Hakt die Zeile ab und merkt sich die Dateien dazu</translation>
    </message>
    <message>
        <source>Show its files</source>
        <translation>Seine Dateien zeigen</translation>
    </message>
    <message>
        <source>Asked for: %1</source>
        <translation>Gewünscht: %1</translation>
    </message>
    <message>
        <source>Notes on this job</source>
        <translation>Notizen zu diesem Auftrag</translation>
    </message>
    <message>
        <source>What happened to the card, what was promised</source>
        <translation>Was mit der Karte geschah, was versprochen ist</translation>
    </message>
    <message numerus="yes">
        <source> (%n file(s))</source>
        <translation>
            <numerusform> (%n Datei)</numerusform>
            <numerusform> (%n Dateien)</numerusform>
        </translation>
    </message>
    <message>
        <source>asked for</source>
        <translation>gewünscht</translation>
    </message>
    <message>
        <source>asked for %1 of %2</source>
        <translation>gewünscht %1 von %2</translation>
    </message>
    <message>
        <source>arranged by</source>
        <translation>nach</translation>
    </message>
    <message>
        <source>first</source>
        <translation>zuerst</translation>
    </message>
    <message>
        <source>sidecars</source>
        <translation>Beidateien</translation>
    </message>
    <message>
        <source>only not whole</source>
        <translation>nicht ganz</translation>
    </message>
    <message>
        <source>narrow</source>
        <translation>einengen</translation>
    </message>
    <message>
        <source>By camera, day, format, size, condition and more, each with its number (N)</source>
        <translation>Nach Kamera, Tag, Format, Größe, Zustand und mehr, jeweils mit Anzahl (N)</translation>
    </message>
    <message>
        <source>What the client asked for, and notes on the job (Q)</source>
        <translation>Was der Kunde sich wünscht, und Notizen zum Auftrag (Q)</translation>
    </message>
    <message>
        <source>Showing %1 of %2</source>
        <translation>Gezeigt %1 von %2</translation>
    </message>
    <message>
        <source>; %1 not listed, embedded in others</source>
        <translation>; %1 nicht gelistet, in anderen eingebettet</translation>
    </message>
    <message>
        <source>; %1 not read yet</source>
        <translation>; %1 noch nicht gelesen</translation>
    </message>
    <message>
        <source>; %1 unreadable</source>
        <translation>; %1 unlesbar</translation>
    </message>
    <message>
        <source>photos %1</source>
        <translation>Fotos %1</translation>
    </message>
    <message>
        <source>clips %1</source>
        <translation>Clips %1</translation>
    </message>
    <message>
        <source>sound %1</source>
        <translation>Ton %1</translation>
    </message>
    <message>
        <source>sidecars %1</source>
        <translation>Beidateien %1</translation>
    </message>
    <message>
        <source>only not whole %1</source>
        <translation>nicht ganz %1</translation>
    </message>
    <message>
        <source>Show the others again</source>
        <translation>Die anderen wieder zeigen</translation>
    </message>
    <message>
        <source>No longer only %1</source>
        <translation>Nicht mehr nur %1</translation>
    </message>
    <message>
        <source> or </source>
        <translation> oder </translation>
    </message>
    <message>
        <source>On the card: %1 to %2</source>
        <translation>Auf der Karte: %1 bis %2</translation>
    </message>
    <message>
        <source>only</source>
        <translation>nur</translation>
    </message>
    <message>
        <source>partial</source>
        <translation>teilweise</translation>
    </message>
    <message>
        <source>open</source>
        <translation>offen</translation>
    </message>
    <message>
        <source>no folder speaks of it</source>
        <translation>kein Ordner weiß davon</translation>
    </message>
    <message>
        <source>still in its folder</source>
        <translation>noch in seinem Ordner</translation>
    </message>
    <message>
        <source>deleted</source>
        <translation>gelöscht</translation>
    </message>
    <message>
        <source>from before formatting</source>
        <translation>von vor dem Formatieren</translation>
    </message>
    <message>
        <source>with made bytes</source>
        <translation>mit gemachten Bytes</translation>
    </message>
    <message>
        <source>in several pieces</source>
        <translation>in mehreren Stücken</translation>
    </message>
    <message>
        <source>in one piece</source>
        <translation>in einem Stück</translation>
    </message>
    <message>
        <source>Condition</source>
        <translation>Zustand</translation>
    </message>
    <message>
        <source>Decided</source>
        <translation>Entschieden</translation>
    </message>
    <message>
        <source>Rated</source>
        <translation>Bewertet</translation>
    </message>
    <message>
        <source>Format</source>
        <translation>Format</translation>
    </message>
    <message>
        <source>Day</source>
        <translation>Tag</translation>
    </message>
    <message>
        <source>Time of day</source>
        <translation>Tageszeit</translation>
    </message>
    <message>
        <source>Dimensions</source>
        <translation>Abmessungen</translation>
    </message>
    <message>
        <source>Folders say</source>
        <translation>Ordner sagen</translation>
    </message>
    <message>
        <source>Lies on the card</source>
        <translation>Liegt auf der Karte</translation>
    </message>
    <message>
        <source>Same bytes twice</source>
        <translation>Dieselben Bytes doppelt</translation>
    </message>
    <message>
        <source>not known</source>
        <translation>nicht bekannt</translation>
    </message>
    <message>
        <source>no date known</source>
        <translation>kein Datum bekannt</translation>
    </message>
    <message>
        <source>ddd d MMM yyyy</source>
        <translation>ddd, d. MMM yyyy</translation>
    </message>
    <message>
        <source>%1:00 to %2:00</source>
        <translation>%1:00 bis %2:00</translation>
    </message>
    <message>
        <source>copy of another</source>
        <translation>Kopie einer anderen</translation>
    </message>
    <message>
        <source>Narrow what is shown</source>
        <translation>Das Gezeigte einengen</translation>
    </message>
    <message>
        <source>number %1</source>
        <translation>Nummer %1</translation>
    </message>
    <message>
        <source>with %1</source>
        <translation>mit %1</translation>
    </message>
    <message>
        <source>unchecked</source>
        <translation>ungeprüft</translation>
    </message>
    <message>
        <source>Sheet of files found</source>
        <translation>Bogen der gefundenen Dateien</translation>
    </message>
    <message>
        <source>None of the %1 files found fits what is chosen above</source>
        <translation>Keine der %1 gefundenen Dateien passt zu dem, was oben gewählt ist</translation>
    </message>
    <message>
        <source>Files appear here as they are found</source>
        <translation>Dateien erscheinen hier, sowie sie gefunden werden</translation>
    </message>
    <message>
        <source>Folders name no photo, clip or recording. Search the rest of the card.</source>
        <translation>Ordner nennen kein Foto, keinen Clip, keine Aufnahme. Den Rest der Karte durchsuchen.</translation>
    </message>
    <message>
        <source>No photo, clip or recording was found on this card</source>
        <translation>Auf dieser Karte wurde kein Foto, kein Clip, keine Aufnahme gefunden</translation>
    </message>
    <message>
        <source>Not searched yet. Start the search below.</source>
        <translation>Noch nicht durchsucht. Die Suche unten beginnen.</translation>
    </message>
    <message>
        <source>no small picture</source>
        <translation>kein kleines Bild</translation>
    </message>
    <message>
        <source>nothing to see</source>
        <translation>nichts zu sehen</translation>
    </message>
    <message>
        <source>right behind</source>
        <translation>gleich dahinter</translation>
    </message>
    <message>
        <source>%1 on</source>
        <translation>%1 weiter</translation>
    </message>
    <message>
        <source>%1 back</source>
        <translation>%1 zurück</translation>
    </message>
    <message>
        <source>, cluster %1</source>
        <translation>, Cluster %1</translation>
    </message>
    <message>
        <source>None: the picture ends here</source>
        <translation>Nichts: Das Bild endet hier</translation>
    </message>
    <message>
        <source>the rest is marked as missing</source>
        <translation>der Rest wird als fehlend markiert</translation>
    </message>
    <message>
        <source>Splice bench</source>
        <translation>Spleißbank</translation>
    </message>
    <message>
        <source>What could follow</source>
        <translation>Was folgen könnte</translation>
    </message>
    <message>
        <source>Undo</source>
        <translation>Rückgängig</translation>
    </message>
    <message>
        <source>Take back the last change (Ctrl+Z)</source>
        <translation>Die letzte Änderung zurücknehmen (Strg+Z)</translation>
    </message>
    <message>
        <source>Redo</source>
        <translation>Wiederholen</translation>
    </message>
    <message>
        <source>Do again what was taken back (Ctrl+Shift+Z)</source>
        <translation>Das Zurückgenommene noch einmal tun (Strg+Umschalt+Z)</translation>
    </message>
    <message>
        <source>Forget what was set</source>
        <translation>Gesetztes vergessen</translation>
    </message>
    <message>
        <source>Back to what is found without help</source>
        <translation>Zurück zu dem, was ohne Hilfe gefunden wird</translation>
    </message>
    <message>
        <source>Leave as found</source>
        <translation>Lassen wie gefunden</translation>
    </message>
    <message>
        <source>Back to the sheet; nothing is changed (Esc)</source>
        <translation>Zurück zum Bogen; nichts wird geändert (Esc)</translation>
    </message>
    <message>
        <source>Keep this picture</source>
        <translation>Dieses Bild behalten</translation>
    </message>
    <message>
        <source>These pieces count from now on; other files give way to them</source>
        <translation>Diese Stücke gelten von nun an; andere Dateien weichen ihnen</translation>
    </message>
    <message>
        <source>Join before</source>
        <translation>Naht davor</translation>
    </message>
    <message>
        <source>Take the join before this one in hand</source>
        <translation>Die Naht vor dieser in die Hand nehmen</translation>
    </message>
    <message>
        <source>Join behind</source>
        <translation>Naht dahinter</translation>
    </message>
    <message>
        <source>Take the next join in hand</source>
        <translation>Die nächste Naht in die Hand nehmen</translation>
    </message>
    <message>
        <source>Back a cluster</source>
        <translation>Cluster zurück</translation>
    </message>
    <message>
        <source>The piece ends a cluster earlier</source>
        <translation>Das Stück endet einen Cluster früher</translation>
    </message>
    <message>
        <source>Back a sector</source>
        <translation>Sektor zurück</translation>
    </message>
    <message>
        <source>The piece ends a sector earlier</source>
        <translation>Das Stück endet einen Sektor früher</translation>
    </message>
    <message>
        <source>On a sector</source>
        <translation>Sektor weiter</translation>
    </message>
    <message>
        <source>The piece ends a sector later</source>
        <translation>Das Stück endet einen Sektor später</translation>
    </message>
    <message>
        <source>On a cluster</source>
        <translation>Cluster weiter</translation>
    </message>
    <message>
        <source>The piece ends a cluster later</source>
        <translation>Das Stück endet einen Cluster später</translation>
    </message>
    <message>
        <source>nothing is missing</source>
        <translation>nichts fehlt</translation>
    </message>
    <message>
        <source>%1 tried, %2 shown</source>
        <translation>%1 versucht, %2 gezeigt</translation>
    </message>
    <message>
        <source>looking at the free space of the card</source>
        <translation>der freie Raum der Karte wird angesehen</translation>
    </message>
    <message numerus="yes">
        <source>%n piece(s)</source>
        <translation>
            <numerusform>%n Stück</numerusform>
            <numerusform>%n Stücke</numerusform>
        </translation>
    </message>
    <message>
        <source>complete: to the end marker with its last block</source>
        <translation>vollständig: bis zur Endmarke mit dem letzten Block</translation>
    </message>
    <message>
        <source>%1 % decodes</source>
        <translation>%1 % dekodiert</translation>
    </message>
    <message>
        <source>When the search is done: it would find other pieces meanwhile</source>
        <translation>Wenn die Suche fertig ist: Sie würde inzwischen andere Stücke finden</translation>
    </message>
    <message>
        <source>trying what could follow</source>
        <translation>versucht, was folgen könnte</translation>
    </message>
    <message>
        <source>The photo with its joins</source>
        <translation>Das Foto mit seinen Nähten</translation>
    </message>
    <message>
        <source>%1 of %2 rows decode; the join in hand is at row %3</source>
        <translation>%1 von %2 Zeilen dekodieren; die Naht in der Hand ist bei Zeile %3</translation>
    </message>
    <message>
        <source>Nothing of it can be seen yet</source>
        <translation>Noch ist nichts davon zu sehen</translation>
    </message>
    <message>
        <source>missing so far</source>
        <translation>fehlt bisher</translation>
    </message>
    <message>
        <source>row %1</source>
        <translation>Zeile %1</translation>
    </message>
    <message>
        <source>The pieces on the card</source>
        <translation>Die Stücke auf der Karte</translation>
    </message>
    <message>
        <source>%1 pieces</source>
        <translation>%1 Stücke</translation>
    </message>
    <message>
        <source>free</source>
        <translation>frei</translation>
    </message>
    <message>
        <source>%1 to %2</source>
        <translation>%1 bis %2</translation>
    </message>
    <message>
        <source>Tray</source>
        <translation>Ablage</translation>
    </message>
    <message>
        <source>A folder on another drive</source>
        <translation>Ein Ordner auf einem anderen Laufwerk</translation>
    </message>
    <message>
        <source>Where to save</source>
        <translation>Wohin sichern</translation>
    </message>
    <message>
        <source>Where</source>
        <translation>Wohin</translation>
    </message>
    <message>
        <source>The drives that are there, with their room, and any other folder</source>
        <translation>Die vorhandenen Laufwerke mit ihrem Platz, und jeder andere Ordner</translation>
    </message>
    <message>
        <source>versions that open</source>
        <translation>Fassungen, die sich öffnen</translation>
    </message>
    <message>
        <source>How the files are laid out</source>
        <translation>Wie die Dateien abgelegt werden</translation>
    </message>
    <message>
        <source>Report</source>
        <translation>Bericht</translation>
    </message>
    <message>
        <source>The page for the client, with what was found, saved and not saved</source>
        <translation>Die Seite für den Kunden, mit Gefundenem, Gesichertem und nicht Gesichertem</translation>
    </message>
    <message>
        <source>What was not saved</source>
        <translation>Was nicht gesichert wurde</translation>
    </message>
    <message>
        <source>Not saved</source>
        <translation>Nicht gesichert</translation>
    </message>
    <message>
        <source>File %1: %2</source>
        <translation>Datei %1: %2</translation>
    </message>
    <message>
        <source>File %1 was saved as it is; no version that opens: %2</source>
        <translation>Datei %1 wurde gesichert, wie sie ist; keine Fassung, die sich öffnet: %2</translation>
    </message>
    <message>
        <source>Names</source>
        <translation>Namen</translation>
    </message>
    <message>
        <source>What files are called whose name no folder knows</source>
        <translation>Wie Dateien heißen, deren Namen kein Ordner kennt</translation>
    </message>
    <message>
        <source>Files without a name of their own are called</source>
        <translation>Dateien ohne eigenen Namen heißen</translation>
    </message>
    <message>
        <source>Pattern of names</source>
        <translation>Muster der Namen</translation>
    </message>
    <message>
        <source>%1. The usual one is taken.</source>
        <translation>%1. Das übliche wird genommen.</translation>
    </message>
    <message>
        <source>Every kept file has a name of its own.</source>
        <translation>Jede behaltene Datei hat ihren eigenen Namen.</translation>
    </message>
    <message>
        <source>Nothing kept yet</source>
        <translation>Noch nichts behalten</translation>
    </message>
    <message>
        <source>%1 kept, %2</source>
        <translation>%1 behalten, %2</translation>
    </message>
    <message>
        <source>Saving: %1 of %2 files checked, %3 of %4 written</source>
        <translation>Wird gesichert: %1 von %2 Dateien geprüft, %3 von %4 geschrieben</translation>
    </message>
    <message>
        <source>Saved %1 files, %2, each read back and found the same%3</source>
        <translation>%1 Dateien gesichert, %2, jede zurückgelesen und gleich%3</translation>
    </message>
    <message>
        <source>; and %1 that open</source>
        <translation>; und %1, die sich öffnen</translation>
    </message>
    <message>
        <source>Saved and verified %1 of %2 files; %3 not saved</source>
        <translation>%1 von %2 gesichert und geprüft; %3 nicht</translation>
    </message>
    <message>
        <source>; without its list: %1</source>
        <translation>; ohne ihre Liste: %1</translation>
    </message>
    <message>
        <source>Space keeps the file that is outlined</source>
        <translation>Leertaste behält die umrandete Datei</translation>
    </message>
    <message>
        <source>To be saved and read back, the first as %1</source>
        <translation>Wird gesichert und zurückgelesen, die erste als %1</translation>
    </message>
    <message>
        <source>Search the rest of the card</source>
        <translation>Den Rest der Karte durchsuchen</translation>
    </message>
    <message>
        <source>Only what folders name</source>
        <translation>Nur was Ordner nennen</translation>
    </message>
    <message>
        <source>Reads all of it, for what no folder knows of any more</source>
        <translation>Liest alles, nach dem, wovon kein Ordner mehr weiß</translation>
    </message>
    <message>
        <source>For a card that was only emptied: checks the files that its folders still know of and reads nothing else. The whole card can be searched after it</source>
        <translation>Für eine Karte, die nur geleert wurde: prüft die Dateien, von denen ihre Ordner noch wissen, und liest sonst nichts. Danach kann die ganze Karte durchsucht werden</translation>
    </message>
    <message>
        <source>%1 free</source>
        <translation>%1 frei</translation>
    </message>
    <message>
        <source>Search the card</source>
        <translation>Die Karte durchsuchen</translation>
    </message>
    <message>
        <source>Go on searching</source>
        <translation>Weitersuchen</translation>
    </message>
    <message>
        <source>Nothing to keep yet</source>
        <translation>Noch nichts zu behalten</translation>
    </message>
    <message>
        <source>Keep all %1 whole files</source>
        <translation>Alle %1 ganzen Dateien behalten</translation>
    </message>
    <message>
        <source>Choose where to save</source>
        <translation>Wählen, wohin gesichert wird</translation>
    </message>
    <message numerus="yes">
        <source>Save %1 file(s)</source>
        <translation>
            <numerusform>%1 Datei sichern</numerusform>
            <numerusform>%1 Dateien sichern</numerusform>
        </translation>
    </message>
    <message>
        <source>Stop saving</source>
        <translation>Sichern anhalten</translation>
    </message>
    <message>
        <source>Show what was saved</source>
        <translation>Gesichertes zeigen</translation>
    </message>
    <message>
        <source>%1, as the last time</source>
        <translation>%1, wie beim letzten Mal</translation>
    </message>
    <message>
        <source>%1: %2, %3 free of %4</source>
        <translation>%1: %2, %3 frei von %4</translation>
    </message>
    <message>
        <source>, no file above %1</source>
        <translation>, keine Datei über %1</translation>
    </message>
    <message>
        <source>Another folder</source>
        <translation>Ein anderer Ordner</translation>
    </message>
    <message>
        <source>This drive takes no file above %1, and the largest kept one has %2. It would not be saved.</source>
        <translation>Dieses Laufwerk nimmt keine Datei über %1, und die größte behaltene hat %2. Sie würde nicht gesichert.</translation>
    </message>
    <message>
        <source>Your own formats are not used. </source>
        <translation>Die eigenen Formate werden nicht benutzt. </translation>
    </message>
    <message>
        <source>looking</source>
        <translation>wird gesucht</translation>
    </message>
    <message>
        <source>Stopped looking for faces after %1; what was seen stays.</source>
        <translation>Die Suche nach Gesichtern hielt nach %1 an; Gesehenes bleibt.</translation>
    </message>
    <message>
        <source>Looked for faces in %1 photos. It is a guess: who looks away is missed.</source>
        <translation>In %1 Fotos nach Gesichtern gesucht. Es ist geschätzt: Wer wegsieht, fehlt.</translation>
    </message>
    <message>
        <source>Look for &amp;people</source>
        <translation>Nach &amp;Menschen suchen</translation>
    </message>
    <message>
        <source>The most alike first</source>
        <translation>Das Ähnlichste zuerst</translation>
    </message>
    <message>
        <source>not looked for yet</source>
        <translation>noch nicht gesucht</translation>
    </message>
    <message>
        <source>faces seen</source>
        <translation>Gesichter gesehen</translation>
    </message>
    <message>
        <source>none seen</source>
        <translation>keine gesehen</translation>
    </message>
    <message>
        <source>People, a guess</source>
        <translation>Menschen, geschätzt</translation>
    </message>
    <message>
        <source>look for faces</source>
        <translation>Gesichter suchen</translation>
    </message>
    <message>
        <source>In the small pictures; a guess, to find photos of people sooner</source>
        <translation>In den kleinen Bildern; geschätzt, um Fotos von Menschen eher zu finden</translation>
    </message>
    <message>
        <source>%1; stop</source>
        <translation>%1; anhalten</translation>
    </message>
    <message>
        <source>W, E</source>
        <translation>W, E</translation>
    </message>
    <message>
        <source>the file before, the next one</source>
        <translation>die Datei davor, die nächste</translation>
    </message>
    <message>
        <source>D</source>
        <translation>D</translation>
    </message>
    <message>
        <source>G, Shift+G</source>
        <translation>G, Umschalt+G</translation>
    </message>
    <message>
        <source>the next shoot or heading, the one before</source>
        <translation>die nächste Überschrift, die davor</translation>
    </message>
    <message>
        <source>V or Return</source>
        <translation>V oder Eingabe</translation>
    </message>
    <message>
        <source>the picture fills the window, and back</source>
        <translation>das Bild füllt das Fenster, und zurück</translation>
    </message>
    <message>
        <source>J</source>
        <translation>J</translation>
    </message>
    <message>
        <source>from just before the next join on</source>
        <translation>ab kurz vor der nächsten Naht</translation>
    </message>
    <message>
        <source>Fill the window with the picture (V)</source>
        <translation>Das Fenster mit dem Bild füllen (V)</translation>
    </message>
    <message>
        <source>Join</source>
        <translation>Naht</translation>
    </message>
    <message>
        <source>Play from just before the next join on (J)</source>
        <translation>Ab kurz vor der nächsten Naht abspielen (J)</translation>
    </message>
    <message>
        <source>The file &amp;before	W</source>
        <translation>Die Datei &amp;davor	W</translation>
    </message>
    <message>
        <source>The ne&amp;xt file	E</source>
        <translation>Die nä&amp;chste Datei	E</translation>
    </message>
    <message>
        <source>&amp;Next that is not whole	D</source>
        <translation>Das &amp;nächste, das nicht ganz ist	D</translation>
    </message>
    <message>
        <source>The next &amp;shoot or heading	G</source>
        <translation>Die nächste A&amp;ufnahmezeit oder Überschrift	G</translation>
    </message>
    <message>
        <source>Play from just before the next &amp;join	J</source>
        <translation>Ab kurz vor der nächsten Na&amp;ht abspielen	J</translation>
    </message>
    <message>
        <source>Lar&amp;ge, and back	V</source>
        <translation>&amp;Groß, und zurück	V</translation>
    </message>
    <message>
        <source>None: the clip ends here</source>
        <translation>Keines: der Clip endet hier</translation>
    </message>
    <message>
        <source>A gap of %1</source>
        <translation>Eine Lücke von %1</translation>
    </message>
    <message>
        <source>Take the piece out</source>
        <translation>Stück herausnehmen</translation>
    </message>
    <message>
        <source>The piece before the join is not this clip&apos;s; a gap takes its place</source>
        <translation>Das Stück vor der Naht gehört nicht zu diesem Clip; eine Lücke tritt an seine Stelle</translation>
    </message>
    <message>
        <source>Clip %1</source>
        <translation>Clip %1</translation>
    </message>
    <message>
        <source>complete: every picture is where its index says</source>
        <translation>vollständig: jedes Bild ist, wo sein Index es sagt</translation>
    </message>
    <message>
        <source>%1 % of its pictures are right</source>
        <translation>%1 % seiner Bilder stimmen</translation>
    </message>
    <message>
        <source>Keep this clip</source>
        <translation>Diesen Clip behalten</translation>
    </message>
    <message>
        <source>The clip with its joins</source>
        <translation>Der Clip mit seinen Nähten</translation>
    </message>
    <message>
        <source>%1 of %2 are right; the join in hand is at %3</source>
        <translation>%1 von %2 stimmen; die Naht in der Hand ist bei %3</translation>
    </message>
    <message>
        <source>its pictures break here</source>
        <translation>hier brechen seine Bilder ab</translation>
    </message>
    <message>
        <source>nothing is known of it yet</source>
        <translation>davon ist noch nichts bekannt</translation>
    </message>
    <message>
        <source>decoding</source>
        <translation>wird dekodiert</translation>
    </message>
    <message>
        <source>no picture of it</source>
        <translation>kein Bild davon</translation>
    </message>
    <message>
        <source>the last picture before the join</source>
        <translation>das letzte Bild vor der Naht</translation>
    </message>
    <message>
        <source>the first one behind it</source>
        <translation>das erste dahinter</translation>
    </message>
    <message>
        <source>Does not fit: none of its first pictures is found</source>
        <translation>Passt nicht: keines seiner ersten Bilder wird gefunden</translation>
    </message>
    <message numerus="yes">
        <source>Fits: %n picture(s) take up %1 % of its front, and decode</source>
        <translation>
            <numerusform>Passt: %n Bild nimmt %1 % seines Anfangs ein und lässt sich dekodieren</numerusform>
            <numerusform>Passt: %n Bilder nehmen %1 % seines Anfangs ein und lassen sich dekodieren</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Does not fit: %n picture(s) would take up %1 % of its front, but do not decode</source>
        <translation>
            <numerusform>Passt nicht: %n Bild nähme %1 % seines Anfangs ein, lässt sich aber nicht dekodieren</numerusform>
            <numerusform>Passt nicht: %n Bilder nähmen %1 % seines Anfangs ein, lassen sich aber nicht dekodieren</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 and %n like it</source>
        <translation>
            <numerusform>%1 und %n wie dieser</numerusform>
            <numerusform>%1 und %n wie dieser</numerusform>
        </translation>
    </message>
    <message>
        <source>%1 x %2, %3 a second</source>
        <translation>%1 x %2, %3 je Sekunde</translation>
    </message>
    <message>
        <source>its index is after this one now</source>
        <translation>sein Index richtet sich jetzt nach diesem</translation>
    </message>
    <message>
        <source>Good clips to write its index after</source>
        <translation>Gute Clips, nach denen sein Index geschrieben werden kann</translation>
    </message>
    <message>
        <source>it lost its index; a good clip of the same recorder says how its data are to be read</source>
        <translation>er hat seinen Index verloren; ein guter Clip desselben Rekorders sagt, wie seine Daten zu lesen sind</translation>
    </message>
    <message>
        <source>Write its index after this clip</source>
        <translation>Index nach diesem Clip schreiben</translation>
    </message>
    <message>
        <source>A new index is written; every made byte is listed</source>
        <translation>Ein neuer Index wird geschrieben; jedes gemachte Byte wird aufgeführt</translation>
    </message>
    <message>
        <source>a picture from its middle</source>
        <translation>ein Bild aus seiner Mitte</translation>
    </message>
    <message>
        <source>Beside each file of which a part is lost, one that opens everywhere: a photo with the rest plainly marked, a clip playing through its gaps, a recording with true lengths. The file itself is saved as it is</source>
        <translation>Neben jeder Datei, von der ein Teil verloren ist, eine, die sich überall öffnet: ein Foto, dessen Rest deutlich markiert ist, ein Clip, der durch seine Lücken spielt, eine Aufnahme mit wahren Längen. Die Datei selbst wird gesichert, wie sie ist</translation>
    </message>
    <message>
        <source>The piece before the join is not this photo&apos;s; what is behind it moves up</source>
        <translation>Das Stück vor der Naht gehört nicht zu diesem Foto; was dahinter ist, rückt auf</translation>
    </message>
    <message>
        <source>It ends at %1; point at where it goes wrong, or drag across what is not its own</source>
        <translation>Es endet bei %1; zeigen Sie dorthin, wo es falsch wird, oder ziehen Sie über das, was nicht dazugehört</translation>
    </message>
    <message>
        <source>Join %1 of %2, at %3; point at where it goes wrong, or drag across what is not its own</source>
        <translation>Naht %1 von %2, bei %3; zeigen Sie dorthin, wo es falsch wird, oder ziehen Sie über das, was nicht dazugehört</translation>
    </message>
    <message>
        <source>%1 to %2: not its own</source>
        <translation>%1 bis %2: gehört nicht dazu</translation>
    </message>
    <message>
        <source>rows %1 to %2: not its own</source>
        <translation>Zeilen %1 bis %2: gehören nicht dazu</translation>
    </message>
    <message>
        <source>The end of the clip; drag across what is not its own</source>
        <translation>Das Ende des Clips; ziehen Sie über das, was nicht dazugehört</translation>
    </message>
    <message>
        <source>The end of the picture; drag across what is not its own</source>
        <translation>Das Ende des Bildes; ziehen Sie über das, was nicht dazugehört</translation>
    </message>
</context>
</TS>
