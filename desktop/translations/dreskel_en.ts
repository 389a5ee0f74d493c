<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<TS version="2.1" language="en" sourcelanguage="en">
<context>
    <name>dreskel::Text</name>
    <message numerus="yes">
        <source>keeping %n file(s)</source>
        <translation>
            <numerusform>keeping %n file</numerusform>
            <numerusform>keeping %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>letting go of %n file(s)</source>
        <translation>
            <numerusform>letting go of %n file</numerusform>
            <numerusform>letting go of %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>leaving out %n file(s)</source>
        <translation>
            <numerusform>leaving out %n file</numerusform>
            <numerusform>leaving out %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>taking in again %n file(s)</source>
        <translation>
            <numerusform>taking in again %n file</numerusform>
            <numerusform>taking in again %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>rating %n file(s)</source>
        <translation>
            <numerusform>rating %n file</numerusform>
            <numerusform>rating %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>the note of %n file(s)</source>
        <translation>
            <numerusform>the note of %n file</numerusform>
            <numerusform>the note of %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 file(s)</source>
        <translation>
            <numerusform>%1 file</numerusform>
            <numerusform>%1 files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>, %1 error(s)</source>
        <translation>
            <numerusform>, %1 error</numerusform>
            <numerusform>, %1 errors</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 file(s) found</source>
        <translation>
            <numerusform>%1 file found</numerusform>
            <numerusform>%1 files found</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n disk(s) of this computer not shown; show</source>
        <translation>
            <numerusform>%n disk of this computer not shown; show</numerusform>
            <numerusform>%n disks of this computer not shown; show</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source> (%n file(s))</source>
        <translation>
            <numerusform> (%n file)</numerusform>
            <numerusform> (%n files)</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n piece(s)</source>
        <translation>
            <numerusform>%n piece</numerusform>
            <numerusform>%n pieces</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Save %1 file(s)</source>
        <translation>
            <numerusform>Save %1 file</numerusform>
            <numerusform>Save %1 files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Fits: %n picture(s) take up %1 % of its front, and decode</source>
        <translation>
            <numerusform>Fits: %n picture takes up %1 % of its front, and decodes</numerusform>
            <numerusform>Fits: %n pictures take up %1 % of its front, and decode</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Does not fit: %n picture(s) would take up %1 % of its front, but do not decode</source>
        <translation>
            <numerusform>Does not fit: %n picture would take up %1 % of its front, but does not decode</numerusform>
            <numerusform>Does not fit: %n pictures would take up %1 % of its front, but do not decode</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 and %n like it</source>
        <translation>
            <numerusform>%1 and %n like it</numerusform>
            <numerusform>%1 and %n like it</numerusform>
        </translation>
    </message>
</context>
</TS>
