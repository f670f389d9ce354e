#include "store/case_archive.h"
#include "base/input_bounds.h"

#include "store/case_folder.h"

#include <algorithm>
#include <array>
#include <fstream>
#include <iterator>
#include <memory>
#include <vector>
#include <zip.h>

namespace ustor {
namespace {

namespace fs = std::filesystem;

constexpr const char* unchanged = toSay("nothing was changed");

Error openError(int code, const fs::path& file) {
    zip_error_t fault;
    zip_error_init_with_code(&fault, code);
    Error error{say("cannot be opened as a case: {fault}", {{"fault", zip_error_strerror(&fault)}}),
                file.string(), say(unchanged)};
    zip_error_fini(&fault);
    return error;
}

std::vector<fs::path> filesOf(const fs::path& folder, std::error_code& fault) {
    std::vector<fs::path> files;
    for (fs::recursive_directory_iterator item(folder, fault), end; !fault && item != end;
         item.increment(fault))
        if (item->is_regular_file(fault)) files.push_back(item->path());
    std::sort(files.begin(), files.end());
    return files;
}

/// A name that stays inside the folder it is unpacked to, on any system.
bool staysInside(const std::string& name) {
    if (name.empty() || name.front() == '/' || name.find('\\') != std::string::npos ||
        name.find(':') != std::string::npos)
        return false;
    const fs::path path(name);
    return std::none_of(path.begin(), path.end(), [](const fs::path& step) { return step == ".."; });
}

struct CloseFile {
    void operator()(zip_file_t* f) const { zip_fclose(f); }
};
struct Discard {
    void operator()(zip_t* z) const { zip_discard(z); }
};
using Archive = std::unique_ptr<zip_t, Discard>;

/// Copies one entry out; the checksum is tested by the library at the entry's end.
Outcome unpack(zip_t* archive, zip_uint64_t index, const zip_stat_t& entry, const fs::path& target,
               const fs::path& file) {
    const std::unique_ptr<zip_file_t, CloseFile> in(zip_fopen_index(archive, index, 0));
    if (!in)
        return Error{say("{entry}: {fault}", {{"entry", entry.name}, {"fault", zip_strerror(archive)}}),
                     file.string(), say(unchanged)};
    std::error_code fault;
    fs::create_directories(target.parent_path(), fault);
    std::ofstream out(target, std::ios::binary);
    std::vector<char> block(1 << 16);
    zip_uint64_t copied = 0;
    for (;;) {
        const zip_int64_t got = zip_fread(in.get(), block.data(), block.size());
        if (got == 0) break;
        copied += static_cast<zip_uint64_t>(std::max<zip_int64_t>(got, 0));
        if (got < 0 || copied > entry.size)
            return Error{say("{entry} is damaged", {{"entry", entry.name}}), file.string(), say(unchanged)};
        out.write(block.data(), got);
    }
    out.close();
    if (!out)
        return Error{say("{entry} cannot be written (disk full, or no permission)", {{"entry", entry.name}}),
                     target.string(), say(unchanged)};
    return Done{};
}

Outcome unpackAll(const fs::path& file, const fs::path& folder, const Progress& progress) {
    int code = 0;
    const Archive archive(zip_open(file.c_str(), ZIP_RDONLY, &code));
    if (!archive) return openError(code, file);
    const auto count =
        static_cast<zip_uint64_t>(std::max<zip_int64_t>(0, zip_get_num_entries(archive.get(), 0)));
    std::error_code fault;
    zip_uint64_t room = fs::space(folder, fault).available;
    for (zip_uint64_t i = 0; i < count; ++i) {
        zip_stat_t entry;
        constexpr zip_uint64_t needed = ZIP_STAT_NAME | ZIP_STAT_SIZE | ZIP_STAT_COMP_SIZE;
        if (zip_stat_index(archive.get(), i, 0, &entry) != 0 || (entry.valid & needed) != needed)
            return Error{say("an entry has no name or size"), file.string(), say(unchanged)};
        const std::string name = entry.name;
        if (!staysInside(name))
            return Error{say("names a file outside the case: {name}", {{"name", name}}), file.string(),
                         say(unchanged)};
        if (name.back() == '/') continue; // folders are made as their files need them
        if (entry.size > bounds::harmless_bytes && entry.size / bounds::growth > entry.comp_size)
            return Error{say("{name} would grow to more than {times} times its size: this is no case",
                             {{"name", name}, {"times", bounds::growth}}),
                         file.string(), say(unchanged)};
        if (entry.size > room)
            return Error{say("the case is larger than the room left on the disk"), file.string(),
                         say(unchanged)};
        room -= entry.size;
        if (auto done = unpack(archive.get(), i, entry, folder / name, file); !done) return done;
        if (progress) progress(static_cast<double>(i + 1) / static_cast<double>(count));
    }
    return Done{};
}

} // namespace

namespace {

void tellProgress(zip_t*, double share, void* progress) {
    (*static_cast<const Progress*>(progress))(share);
}

std::string bytesOf(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

} // namespace

Outcome exportCase(const fs::path& folder, const fs::path& file, const Progress& progress) {
    std::error_code fault;
    if (!fs::exists(folder / "case.json", fault))
        return Error{say("not a case: case.json is missing"), folder.string(), {}};
    const auto files = filesOf(folder, fault);
    if (fault)
        return Error{say("cannot be read: {fault}", {{"fault", fault.message()}}), folder.string(), {}};
    int code = 0;
    Archive archive(zip_open(file.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code));
    if (!archive) return openError(code, file);
    // Facts may come while the rest is packed: those that are there now are.
    const fs::path factsFile = CaseFolder::factsFileIn(folder);
    const std::string facts = bytesOf(factsFile);
    for (const fs::path& one : files) {
        if (fs::equivalent(one, file, fault)) continue; // an older export inside the folder itself
        zip_source_t* source = one == factsFile
                                   ? zip_source_buffer(archive.get(), facts.data(), facts.size(), 0)
                                   : zip_source_file(archive.get(), one.c_str(), 0, -1);
        const std::string name = fs::relative(one, folder, fault).generic_string();
        if (!source || zip_file_add(archive.get(), name.c_str(), source, ZIP_FL_ENC_UTF_8) < 0) {
            zip_source_free(source);
            return Error{say("{entry}: {fault}", {{"entry", name}, {"fault", zip_strerror(archive.get())}}),
                         file.string(), say("the case is unchanged")};
        }
    }
    Progress told = progress; // outlives the archive's closing
    if (told) zip_register_progress_callback_with_state(archive.get(), 0.01, tellProgress, nullptr, &told);
    // The library writes beside the target and renames at the end.
    if (zip_close(archive.get()) != 0)
        return Error{say("cannot be written: {fault}", {{"fault", zip_strerror(archive.get())}}),
                     file.string(), say("the case is unchanged")};
    static_cast<void>(archive.release());
    return Done{};
}

namespace {

/// A folder beside the cases that no list of them shows.
fs::path landingIn(const fs::path& parent) {
    std::error_code fault;
    for (int n = 1;; ++n)
        if (auto folder = parent / (".incoming-" + std::to_string(n)); !fs::exists(folder, fault))
            return folder;
}

} // namespace

Result<fs::path> importCase(const fs::path& file, const fs::path& parent, const Progress& progress) {
    std::error_code fault;
    fs::create_directories(parent, fault);
    const fs::path landing = landingIn(parent);
    if (!fs::create_directory(landing, fault))
        return Error{say("cannot be made: {fault}", {{"fault", fault.message()}}), landing.string(),
                     say(unchanged)};
    const auto refuse = [&](const Error& why) {
        fs::remove_all(landing, fault);
        return why;
    };
    if (const auto done = unpackAll(file, landing, progress); !done) return refuse(done.error());
    std::string title;
    {
        const auto opened = CaseFolder::open(landing);
        if (!opened)
            return refuse({opened.error().what, file.string() + ", " + opened.error().where, say(unchanged)});
        title = opened.value().title;
    }
    const fs::path folder = freeCaseFolder(parent, title);
    fs::rename(landing, folder, fault);
    if (fault)
        return refuse({say("cannot be moved into place: {fault}", {{"fault", fault.message()}}),
                       folder.string(), say(unchanged)});
    return folder;
}

} // namespace ustor
