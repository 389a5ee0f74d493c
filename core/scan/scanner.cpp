#include "scan/scanner.h"

#include "scan/running.h"

#include <algorithm>
#include <chrono>
#include <set>
#include <thread>

#include "formats/registry.h"
#include "scan/belongings.h"
#include "scan/claims.h"
#include "scan/directory_book.h"
#include "scan/examiner.h"
#include "scan/pass.h"
#include "scan/surface.h"
#include "scan/takes.h"
#include "source/copy_map.h"
#include "volume/orphans.h"

namespace dreskel {
namespace {

using Clock = std::chrono::steady_clock;
constexpr std::size_t kMostFolderSectors = 500000;
constexpr auto kTick = std::chrono::milliseconds(200);

Error interrupted(const Job& job) {
    return {Fault::Interrupted, "Stopped; the job is kept and goes on when asked to", job.folder(), ""};
}

bool asked(const std::vector<std::string>& formats, const std::string& format) {
    return formats.empty() || std::find(formats.begin(), formats.end(), format) != formats.end();
}

}  // namespace

Scanner::Scanner(std::shared_ptr<Job> job, std::shared_ptr<Source> source, ScanListener& listener,
                 Supply supply, std::shared_ptr<const Source> ahead)
    : job_(std::move(job)),
      source_(std::move(source)),
      listener_(listener),
      supply_(std::move(supply)),
      ahead_(std::move(ahead)) {
    if (supply_) return;
    supply_ = [this](ByteRange rest, Control& control, const Pass::Visit& visit) -> Status {
        Pass::run(*source_, rest, control, visit);
        return Done{};
    };
}

Status Scanner::prepare(const ScanOptions& options, ScanRecord& record) {
    const auto known = job_->source();
    if (known && (known->size != source_->size() || known->sectorSize != source_->sectorSize())) {
        return Error{Fault::Failed, "This job belongs to another source, of " + humanSize(known->size),
                     known->path, "Name that source, or another folder for a new job"};
    }
    if (!known) {
        const auto stored = job_->setSource({source_->path(), source_->size(), source_->sectorSize()});
        if (!stored) return stored;
    }
    record = job_->scan();
    if (record.state != ScanState::NotStarted) {
        const auto before = record.references.size();
        for (const auto& lent : options.references) {
            if (std::find(record.references.begin(), record.references.end(), lent) ==
                record.references.end())
                record.references.push_back(lent);
        }
        if (options.again && record.state == ScanState::Finished) {
            record.state = ScanState::Checking;
            if (auto kept = job_->setScan(record); !kept) return kept;
        }
        // What is lent later is tried on what was found.
        if (record.references.size() > before) {
            if (record.state == ScanState::Finished) record.state = ScanState::Checking;
            if (auto kept = job_->setScan(record); !kept) return kept;
        }
        if (!record.namedOnly || options.namedOnly) return Done{};
        record.namedOnly = false;
        record.state = ScanState::Reading;
        return job_->setScan(record);
    }
    record.state = ScanState::Reading;
    record.span = options.span.length == 0 ? ByteRange{0, source_->size()} : options.span;
    if (record.span.offset >= source_->size()) {
        return Error{Fault::Usage, "The span begins behind the end of the source", source_->path(), ""};
    }
    // Whole sectors, within the source.
    const std::uint64_t sector = source_->sectorSize();
    const auto from = record.span.offset / sector * sector;
    const auto wish = std::min(source_->size() - record.span.offset, record.span.length) + record.span.offset;
    const auto end = std::min(source_->size(), (wish + sector - 1) / sector * sector);
    record.span = {from, end - from};
    record.position = from;
    record.formats = options.formats;
    record.skipPresent = options.skipPresent;
    record.namedOnly = options.namedOnly;
    record.references = options.references;
    return job_->setScan(record);
}

std::optional<Examined> Scanner::wholeIn(Running& running, const Candidate& candidate,
                                         const std::vector<ByteRange>& places) {
    running.examiner.add(candidate, places);
    running.examiner.finish();
    std::optional<Examined> whole;
    for (auto& examined : running.examiner.take()) {
        if (examined.measured.accepted && examined.measured.condition == Condition::Whole)
            whole = std::move(examined);
    }
    return whole;
}

Status Scanner::store(Running& running, bool final) {
    {
        const std::lock_guard lock(running.mutex);
        if (!running.candidates.empty()) {
            if (auto stored = job_->addCandidates(running.candidates); !stored) return stored;
            running.candidates.clear();
        }
        if (!running.unreadable.empty()) {
            if (auto stored = job_->addUnreadable(running.unreadable); !stored) return stored;
            running.unreadable.clear();
        }
        if (auto stored = job_->addRanges(RangeKind::Blank, running.surface.takeBlank()); !stored)
            return stored;
        const bool moved = running.record.position != running.position;
        running.record.position = running.position;
        if (moved || final) {
            running.record.surface = running.surface.cells();
            if (auto stored = job_->setScan(running.record); !stored) return stored;
        }
    }
    for (auto& examined : running.examiner.take()) {
        if (examined.measured.accepted) {
            auto& measured = examined.measured;
            Finding finding;
            auto again = running.claims.at(examined.candidate);
            if (again) {
                running.claims.remove(*again);
            } else if ((again = running.promisedAt(examined.candidate.offset))) {
                running.promised.erase(*again);
                running.promisedStarts.erase(examined.candidate.offset);
            }
            finding.id = again ? *again : ++running.lastId;
            finding.kind = measured.kind;
            finding.format = measured.format;
            finding.bySignature = true;
            finding.description = std::move(measured.description);
            finding.notes = std::move(measured.notes);
            if (measured.notices == Notices::Nothing) finding.notes.emplace_back(kNothingToCheckBy);
            finding.decodedMap = std::move(measured.decodedMap);
            finding.wanted = asked(running.record.formats, measured.format);
            finding.evidence = {
                examined.candidate.family,
                {examined.candidate.offset, measured.length},
                measured.proven,
                measured.condition,
                measured.decoded,
                std::move(measured.why),
                std::move(measured.mediaData),
                std::move(measured.enclosed),
                measured.holdsPhotos,
                measured.notices,
                measured.samples != nullptr,
                examined.places,
                running.decided.contains(examined.candidate.offset) && !examined.places.empty(),
                std::move(examined.rebuilt)};
            if (!examined.places.empty()) {
                // From the first piece's start to the last byte on the card.
                auto& range = finding.evidence.range;
                for (const auto& place : examined.places)
                    range.length = std::max(range.length, place.end() - std::min(place.end(), range.offset));
                const auto length = measured.length;
                const auto rebuilt = running.joins.find(examined.candidate.offset);
                if (rebuilt != running.joins.end()) finding.joins = rebuilt->second;
                for (std::uint64_t at = 0; const auto& place : examined.places) {
                    if (rebuilt != running.joins.end() || !finding.evidence.rebuilt.empty()) break;
                    if (at > 0) finding.joins.push_back({at, 1.0, "the allocation table leads on here"});
                    at += place.length;
                }
                finding.evidence.proven =
                    finding.evidence.condition == Condition::Whole ? length : measured.proven;
            }
            running.book.apply(finding);
            if (!examined.preview.picture.empty() || !examined.preview.peaks.empty()) {
                if (auto stored = job_->putPreview(finding.id, examined.preview); !stored) return stored;
            }
            running.claims.add(std::move(finding));
        }
        if (auto stored = job_->closeCandidate(examined.candidate.offset); !stored) return stored;
    }
    auto changed = running.claims.settle();
    if (final) {
        for (auto& finding : running.claims.markDuplicates(running.card))
            changed.push_back(std::move(finding));
    }
    for (const auto& finding : changed) {
        if (auto stored = job_->putFinding(finding); !stored) return stored;
    }
    if (auto stored = job_->commit(); !stored) return stored;
    if (!changed.empty()) listener_.onFindings(changed);
    tell(running);
    return Done{};
}

void Scanner::tell(Running& running) {
    const auto now = Clock::now();
    const std::chrono::duration<double> since = now - running.rateAt;
    if (since.count() >= 1.0) {
        const auto lately =
            static_cast<double>(running.record.position - running.ratePosition) / since.count();
        running.rate = running.rate == 0 ? lately : 0.6 * running.rate + 0.4 * lately;
        running.rateAt = now;
        running.ratePosition = running.record.position;
    }
    ScanProgress progress;
    progress.state = running.record.state;
    progress.span = running.record.span;
    progress.namedOnly = running.record.namedOnly;
    progress.position = running.record.position;
    const auto unreadable = running.card.unreadable();
    progress.unreadable = unreadable.total();
    progress.unreadableRanges = std::make_shared<std::vector<ByteRange>>(unreadable.ranges());
    progress.surface = std::make_shared<std::vector<std::uint8_t>>(running.record.surface);
    progress.toCheck = running.examiner.waiting();
    progress.bytesPerSecond = running.rate;
    if (running.joining) {
        progress.joining = true;
        progress.toJoin = running.joining->left;
        progress.joined = running.joining->joined;
    }
    listener_.onProgress(progress);
}

Status Scanner::readDirectories(Running& running, Control& control) {
    const Source& source = ahead_ ? *ahead_ : *source_;
    running.book.add(remember(source, surveySource(source), [&] { return !control.stopped(); }));
    if (auto stored = job_->addRanges(RangeKind::Structure, running.book.structures().ranges()); !stored)
        return stored;
    const bool fresh = running.promised.empty() && running.claims.all().empty();
    if (!fresh || running.record.state != ScanState::Reading) return Done{};
    std::vector<Finding> listed;
    for (const auto& file : running.book.files()) {
        if (running.record.skipPresent && file.fate == Fate::Present) continue;
        if (!file.otherStarts.empty() || !running.record.span.contains(file.start())) continue;
        if (running.promisedAt(file.start())) continue;
        auto finding = DirectoryBook::promised(file);
        finding.id = ++running.lastId;
        finding.wanted = asked(running.record.formats, finding.format);
        if (auto stored = job_->putFinding(finding); !stored) return stored;
        listed.push_back(finding);
        running.promise(std::move(finding));
    }
    if (auto stored = job_->commit(); !stored) return stored;
    if (!listed.empty()) listener_.onFindings(listed);
    return Done{};
}

Status Scanner::lookAtNamed(Running& running) {
    running.examiner.advance(running.record.span.end());
    std::vector<Candidate> candidates;
    std::vector<std::uint8_t> buffer(Format::kHead);
    std::set<std::uint64_t> known;
    for (const auto& [id, finding] : running.claims.all()) known.insert(finding.evidence.range.offset);
    std::set<std::uint64_t> starts;
    for (const auto& file : running.book.files()) {
        if (running.record.skipPresent && file.fate == Fate::Present) continue;
        // Which of several possible starts it is, the bytes decide.
        starts.insert(file.start());
        starts.insert(file.otherStarts.begin(), file.otherStarts.end());
    }
    for (const auto start : starts) {
        if (known.contains(start) || !running.record.span.contains(start)) continue;
        const auto head = Bytes(buffer).first(running.card.read(start, buffer));
        if (head.empty()) continue;
        for (const auto* format : formatsBeginning(head[0])) {
            if (format->matches(head)) candidates.push_back({start, std::string(format->name())});
        }
    }
    if (auto stored = job_->addCandidates(candidates); !stored) return stored;
    for (const auto& candidate : candidates)
        running.examiner.add(candidate, running.book.placesAt(candidate.offset));
    return Done{};
}

Status Scanner::readOrphans(Running& running) {
    std::vector<ByteRange> sectors;
    for (const auto offset : running.folders) sectors.push_back({offset, source_->sectorSize()});
    if (auto stored = job_->addRanges(RangeKind::Structure, sectors); !stored) return stored;
    // Of a card that was copied meanwhile, not everything may have been read when the search began.
    if (ahead_) {
        running.book = DirectoryBook();
        running.book.add(remember(*source_, surveySource(*source_), [] { return true; }));
        const auto structures = running.book.structures().ranges();
        if (auto stored = job_->addRanges(RangeKind::Structure, structures); !stored) return stored;
    }
    Anchors anchors;
    for (const auto& [id, finding] : running.claims.all()) {
        if (!finding.inside) anchors[finding.start()] = finding.evidence.range.length;
    }
    Remembered orphans;
    orphans.files = rememberOrphans(*source_, running.folders, running.book.structures(),
                                    surveySource(*source_), anchors);
    running.book.add(std::move(orphans));
    running.claims.revise(
        [&](Finding& finding) { return finding.name.empty() && running.book.apply(finding); });
    return Done{};
}

Status Scanner::settlePromises(Running& running) {
    std::vector<Finding> changed;
    // Bytes that others own are not a lost file's any more.
    RangeSet others = running.book.present();
    for (const auto& [id, known] : running.claims.all()) {
        if (!known.listed()) continue;
        for (const auto& piece : known.pieces) {
            if (piece.from == PieceFrom::Card) others.add(piece.onCard());
        }
    }
    for (auto& [id, finding] : running.promised) {
        const bool present = finding.fate == Fate::Present;
        // Of a kind whose signature is known, and not there: its beginning has been overwritten.
        const bool beginningGone = isFormatsName(finding.name);
        const bool usedAgain =
            std::any_of(finding.pieces.begin(), finding.pieces.end(),
                        [&](const Piece& piece) { return others.intersects(piece.onCard()); });
        if (!present && (beginningGone || usedAgain)) {
            finding.wanted = false;
            changed.push_back(finding);
            continue;
        }
        if (beginningGone)
            finding.notes.emplace_back("nothing of its kind begins where the directory says it lies");
        running.claims.add(finding);
    }
    running.promised.clear();
    running.promisedStarts.clear();
    for (const auto& finding : changed) {
        if (auto stored = job_->putFinding(finding); !stored) return stored;
    }
    if (!changed.empty()) listener_.onFindings(changed);
    return Done{};
}

std::vector<ByteRange> Scanner::recovered() const {
    const auto map = source_->map();
    if (!map) return {};
    RangeSet now;
    for (const auto& range : job_->unreadable()) now.add(range);
    for (const auto& range : map->unread({0, map->size()})) now.remove(range);
    return now.ranges();
}

// Sets what the new bytes concern to be examined anew: files that reach into them or stopped before them, and
// signatures in them or not far before, whose files may have been given up for what was missing.
Status Scanner::lookAgain(Running& running, const std::vector<ByteRange>& ranges) {
    constexpr std::uint64_t kBefore = 4ULL << 20;
    const std::uint64_t sector = source_->sectorSize();
    std::map<std::uint64_t, Candidate> again;
    RangeSet near;
    for (const auto& range : ranges) {
        running.card.markReadable(range);
        const auto from = range.offset - std::min(range.offset, kBefore);
        near.add({from / sector * sector, range.end() - from / sector * sector});
        for (const auto& [id, finding] : running.claims.all()) {
            const auto& own = finding.evidence.range;
            if (own.offset < range.end() && own.end() + sector >= range.offset)
                again[own.offset] = {own.offset, finding.evidence.family};
        }
    }
    std::vector<std::uint8_t> head(static_cast<std::size_t>(sector));
    for (const auto& range : near.ranges()) {
        for (auto at = range.offset; at < range.end(); at += sector) {
            const auto got = running.card.read(at, head);
            for (const auto* format : allFormats()) {
                if (format->matches(Bytes(head).first(got)))
                    again.emplace(at, Candidate{at, std::string(format->name())});
            }
        }
    }
    std::vector<Candidate> candidates;
    for (const auto& [at, candidate] : again) candidates.push_back(candidate);
    if (auto stored = job_->addCandidates(candidates); !stored) return stored;
    if (auto stored = job_->setUnreadable(running.card.unreadable().ranges()); !stored) return stored;
    for (const auto& candidate : candidates) running.examiner.add(candidate);
    return Done{};
}

Status Scanner::run(const ScanOptions& options, Control& control) {
    ScanRecord record;
    if (auto prepared = prepare(options, record); !prepared) return prepared;
    const bool more = !recovered().empty();
    if (record.state == ScanState::Finished && !more) return Done{};
    if (more) record.state = ScanState::Reading;

    Running running(source_, record, control);
    running.position = running.ratePosition = record.position;
    for (const auto& range : job_->unreadable()) running.card.markUnreadable(range);
    running.examiner.advance(record.position);
    for (auto& finding : job_->findings()) {
        running.lastId = std::max(running.lastId, finding.id);
        const bool promise = finding.evidence.family.empty() && !finding.bySignature;
        if (promise) {
            running.promise(std::move(finding));
        } else {
            running.claims.add(std::move(finding));
        }
    }
    if (auto read = readDirectories(running, control); !read) return read;
    for (const auto& candidate : job_->openCandidates()) {
        if (candidate.family == kFolderSector) running.folders.push_back(candidate.offset);
        running.examiner.add(candidate, running.book.placesAt(candidate.offset));
    }

    std::atomic<bool> passOver = record.namedOnly;
    if (record.namedOnly) {
        if (auto asked = lookAtNamed(running); !asked) return asked;
        running.record.state = ScanState::Checking;
    }
    // What a search of the named files has examined is known; what may run on is looked at once more, since
    // most that seems to begin inside of it does not.
    std::set<std::pair<std::uint64_t, std::string>> examined;
    for (const auto& [id, finding] : running.claims.all()) {
        const auto* format = familyNamed(finding.evidence.family);
        if (format != nullptr && !format->runsOn())
            examined.emplace(finding.evidence.range.offset, finding.evidence.family);
    }
    Status supplied = Done{};
    std::thread pass([&] {
        if (record.namedOnly) return;
        const ByteRange rest{record.position, record.span.end() - record.position};
        const auto sector = source_->sectorSize();
        supplied = supply_(rest, control, [&](std::uint64_t offset, Bytes bytes, const auto& unreadable) {
            std::vector<Candidate> found;
            std::vector<Candidate> folders;
            for (std::size_t at = 0; at < bytes.size(); at += sector) {
                const auto head = slice(bytes, at, Format::kHead);
                for (const auto* format : formatsBeginning(head[0])) {
                    if (format->matches(head)) found.push_back({offset + at, std::string(format->name())});
                }
                if (looksLikeFolder(slice(bytes, at, sector)))
                    folders.push_back({offset + at, kFolderSector});
            }
            for (const auto& bad : unreadable) running.card.markUnreadable(bad);
            if (record.skipPresent) {
                std::erase_if(found, [&](const Candidate& candidate) {
                    return running.book.present().contains(candidate.offset);
                });
            }
            std::erase_if(found, [&](const Candidate& candidate) {
                return examined.contains({candidate.offset, candidate.family});
            });
            for (const auto& candidate : found)
                running.examiner.add(candidate, running.book.placesAt(candidate.offset));
            {
                const std::lock_guard lock(running.mutex);
                running.surface.look(offset, bytes, sector);
                running.candidates.insert(running.candidates.end(), found.begin(), found.end());
                if (running.folders.size() < kMostFolderSectors) {
                    running.candidates.insert(running.candidates.end(), folders.begin(), folders.end());
                    for (const auto& folder : folders) running.folders.push_back(folder.offset);
                }
                running.unreadable.insert(running.unreadable.end(), unreadable.begin(), unreadable.end());
                running.position = offset + bytes.size();
            }
            running.examiner.advance(offset + bytes.size());
        });
        passOver = true;
    });

    Status outcome = Done{};
    for (;;) {
        std::this_thread::sleep_for(kTick);
        if (passOver && !supplied) control.stop();
        if (passOver && running.record.state == ScanState::Reading &&
            running.reached() >= record.span.end()) {
            // What the pass has just seen must be in the job before it is asked.
            if (outcome = store(running, false); !outcome) break;
            const auto late = recovered();
            // What is being looked into has seen these bytes missing, and must not have the last word.
            const bool settled = late.empty() || running.examiner.idle();
            if (settled && !late.empty()) {
                outcome = lookAgain(running, late);
                if (!outcome) break;
            }
            if (settled) running.record.state = ScanState::Checking;
        }
        const bool over =
            control.stopped() || (running.record.state == ScanState::Checking && running.examiner.idle());
        outcome = store(running, false);
        if (!outcome || over) break;
    }
    if (!outcome) control.stop();
    pass.join();
    if (!outcome) return outcome;
    if (control.stopped()) {
        if (auto stored = store(running, false); !stored) return stored;
        if (!supplied && supplied.error().fault != Fault::Interrupted) return supplied;
        return interrupted(*job_);
    }
    if (!record.namedOnly) {
        if (auto told = readOrphans(running); !told) return told;
    }
    if (auto carriedOut = carryOutSplices(running, control); !carriedOut) return carriedOut;
    if (control.stopped()) return interrupted(*job_);
    if (options.rebuild && !record.namedOnly) {
        // What was put together is out of the way of others.
        for (const auto rebuild : {&Scanner::rebuildAround, &Scanner::rebuildClips, &Scanner::rebuildPictures,
                                   &Scanner::rebuildPhotos, &Scanner::rebuildWalked, &Scanner::rebuildStreams,
                                   &Scanner::rebuildBeheaded, &Scanner::rebuildBare, &Scanner::rebuildPlain,
                                   &Scanner::rebuildAround, &Scanner::rebuildUnindexed,
                                   &Scanner::rebuildBeginless, &Scanner::rebuildHeadless}) {
            if (auto rebuilt = (this->*rebuild)(running, control); !rebuilt) return rebuilt;
            if (control.stopped()) return interrupted(*job_);
        }
    }
    if (auto settled = settlePromises(running); !settled) return settled;
    auto ties = belongings(running.claims.all());
    ties.merge(takes(running.claims.all()));
    running.claims.revise([&](Finding& finding) {
        const auto tie = ties.find(finding.id);
        if (tie == ties.end() || finding.belongsTo == tie->second.to) return false;
        finding.belongsTo = tie->second.to;
        finding.notes.push_back("belongs to file " + std::to_string(tie->second.to) + ": " + tie->second.why);
        return true;
    });
    running.record.state = ScanState::Finished;
    return store(running, true);
}

}  // namespace dreskel
