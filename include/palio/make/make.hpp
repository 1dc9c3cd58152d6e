// Making the files of a design: what is made of it, in which formats, and the doing.
#pragma once

#include <array>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "palio/angle.hpp"
#include "palio/body/mould.hpp"
#include "palio/design/design.hpp"
#include "palio/view/placement.hpp"
#include "palio/write/packed.hpp"
#include "palio/write/step.hpp"
#include "palio/write/stock.hpp"

namespace palio::make {

/// A sort of file.
struct Format {
  std::string_view name;  ///< also the ending of its files, if nothing else is said
  std::string_view meaning;
  bool whole;                 ///< also made of all parts in place, not only of each alone
  bool plane;                 ///< needs a plane section that shows the teeth
  bool carries_job;           ///< the whole job stands in it, and `palio start --from` reads it back
  bool alone = true;          ///< made of each part
  bool on_request = false;    ///< made only where it is asked for by name
  std::string_view ending{};  ///< of its files, where that is not its name
};
/// All of them, in the order in which they are made.
const std::vector<Format>& formats();

struct Request {
  std::vector<std::string> formats{};          ///< empty: all
  std::vector<std::string> only{};             ///< names of parts, "assembly"; empty: all
  double chord_error = 0;                      ///< [mm]; 0: the smaller of 0.005 mm and module/300
  bool splines = false;                        ///< DXF: an entity for each curve, in place of polylines with bulges
  std::optional<std::array<double, 2>> bed{};  ///< 3MF of the whole: its parts side by side on a bed of this size [mm]
  /// File names, from {gear} {part} {number} {module} {teeth} {kind} {material} {job}; "/" makes sub-folders.
  std::string pattern = "{gear}";
  bool one_file = false;  ///< the whole, or the one part there is or was chosen, and nothing else
};

/// A file that was made.
struct File {
  std::string path;
  std::string format;
  std::string part;                   ///< or "assembly"
  std::optional<double> deviation{};  ///< from the exact curves, where it has any [mm]
  std::size_t triangles = 0;
  std::optional<double> volume{};  ///< as read off what was written, where that is a solid [mm³]
  std::string_view meaning{};      ///< of its format
  std::size_t bytes = 0;           ///< its length; of a description with meshes beside it, the description's
  std::size_t parts = 1;           ///< how many stand in it
  std::size_t loops = 0;           ///< closed ones of a plane file
  std::size_t chains = 0;          ///< open ones, between tabs
  std::optional<Vec3> extent{};    ///< along x, y and z of what triangles or plane loops lie within [mm]
};

/// What does the writing: the formats that stand on large libraries come from modules of their own.
struct Means {
  using Step = std::function<write::StepMade(const std::vector<write::StepPart>&, const write::Stamp&, double tolerance,
                                             const std::string& path)>;
  using Pack = std::function<std::string(const std::string& format, const std::vector<write::PackedPart>&,
                                         const write::Stamp&, double seconds)>;
  /// Where a file goes; its folder is there then. \param name  as the pattern gives it, with its ending
  std::function<std::string(const std::string& name)> path;
  std::function<void(const std::string& path, std::string_view bytes)> save;
  std::function<void(const std::string& path)> about_to{};  ///< called before each file
  std::function<void(const std::string& remark)> remark{};  ///< what was left out, and why
  Step step{};                                              ///< without it STEP is refused
  Pack pack{};                                              ///< without it 3MF and GLB are refused
};

/// Files in a folder, which is made, each written whole or not at all.
/// \param step, pack  `write::write_step`, and `write::threemf` and `write::glb` where those modules are linked
Means into(const std::string& folder, Means::Step step = {}, Means::Pack pack = {});

/// Makes the files of a design; with a [process] they are drawn with its corrections.
/// \param nominal  as designed
/// \throws InvalidParameter "only", "name", "format"; FileError
std::vector<File> make(const job::Design& nominal, const Request& request, const Means& means);

/// Teeth as plane shapes to be cut into a part that exists.
struct Region {
  std::vector<std::string> formats{};  ///< of dxf, svg and step; empty: all three
  std::vector<std::string> only{};     ///< names of gears and discs; empty: all
  double blank = 0;                    ///< diameter of the part around external teeth [mm]; 0: a module beyond the tips
  Vec2 at = Vec2::Zero();              ///< where the gear's axis lies [mm]
  Angle turned{};                      ///< how far the gear is turned
  double chord_error = 0;              ///< of dxf and svg [mm]; 0: 0.001
  bool one_file = false;               ///< the region of the one part there is or was chosen, and nothing else
};

/// NAME_profile, the section of the teeth, and NAME_region, what has to be removed. Bevel gears, racks and lanterns
/// have no plane closed outline and are left out. \throws InvalidParameter "blank", "only", "region" (nothing has one),
/// "format"; FileError
std::vector<File> regions(const job::Design& nominal, const Region& region, const Means& means);

/// Sheets of stock that flat parts are cut from.
struct Stock {
  std::array<double, 2> size{};        ///< of a sheet, across and up [mm]
  double between = 5;                  ///< between parts, and to the sheet's rim [mm]
  write::Tabs tabs{};                  ///< what holds each part in the sheet: bridges of that width when cut
  std::vector<std::string> formats{};  ///< of dxf and svg; empty: both
  std::vector<std::string> only{};     ///< names of parts; empty: all
  double chord_error = 0;              ///< [mm]; 0: the smaller of 0.005 mm and module/300
  bool one_file = false;               ///< all on one sheet, or not at all
};

/// Every flat part, as often as the machine has it, side by side on as many sheets as it takes, those of one material
/// and thickness together: stock_MATERIAL_THICKNESS, with holes on a layer "inside", outlines on "outside" (cut them
/// last) and the part's name on "label". Parts that are not the same from face to face are left out, and told.
/// \throws InvalidParameter "bed" (a part larger than a sheet), "tabs", "only", "format", "stock" (no part is flat, or
///   one file would not do); FileError
std::vector<File> sheets_of_stock(const job::Design& nominal, const Stock& stock, const Means& means);

/// Tools that shape parts: moulds, and electrodes that sink their cavities.
struct Tools {
  std::vector<std::string> formats{};  ///< of step and stl; empty: both
  std::vector<std::string> only{};     ///< names of gears; empty: all that can
  body::MouldSizes sizes{};            ///< the draft is that of the process, where none is given here
  double spark_gap = 0;                ///< of electrodes [mm]
  double chord_error = 0;              ///< of stl [mm]; 0: the smaller of 0.005 mm and module/300
};

/// NAME_mould_lower and NAME_mould_upper of every gear, larger by what the process says the part shrinks.
/// \throws InvalidParameter "only", "format", "mould" (a part that cannot be drawn out, or nothing can), "wall",
/// "floor";
///   FileError
std::vector<File> moulds(const job::Design& nominal, const Tools& tools, const Means& means);

/// NAME_electrode of every external gear of involute teeth: the part without its bore, every surface drawn in by the
/// spark gap along its normal. \throws InvalidParameter "only", "format", "electrode"; FileError
std::vector<File> electrodes(const job::Design& nominal, const Tools& tools, const Means& means);

/// The curves of all teeth as formulas. \param language  "text", "c" or "python"
/// \param pieces  into which every curve is cut; 0: as it is
std::string formulas(const job::Design& design, const std::vector<std::string>& only, const std::string& language,
                     int pieces);

/// What is done to size in files drawn for a process, in words.
std::string process_note(const job::Process& process);
/// What a file of a part carries inside.
write::Stamp stamp(const job::Design& design, const std::string& part);
/// Text as part of a file's name: letters, digits, - and _.
std::string slug(const std::string& text);

/// One loop of the motion, for pictures that move: sets turns, slides and orbits of packed parts that end as they
/// began. \param parts  those of `packed`, in its order \return the loop's length [s]
double set_in_motion(const job::Design& design, const std::vector<const view::Part*>& parts,
                     std::vector<write::PackedPart>& packed);

}  // namespace palio::make
