# Rooms for fields: each folder under src/physics (and one level below) with a face.cpp says what its
# field is (a sheet::Topic), each with a study.cpp solves sheets of it. The names of the functions
# follow from the folders: wave/guide has waveGuideTopic() and waveGuideStudy(). From these the list
# of all is made, as a table of functions: initialisers of static objects would be dropped with the
# parts of static libraries that nothing calls.

# yh_room_tables(DIRECTORY folder...): writes topics.cpp and studies.cpp into DIRECTORY.
function(yh_room_tables directory)
  set(topicNames "")
  set(studyNames "")
  foreach(root ${ARGN})
    file(GLOB_RECURSE faces CONFIGURE_DEPENDS RELATIVE ${root} ${root}/face.cpp)
    file(GLOB_RECURSE studies CONFIGURE_DEPENDS RELATIVE ${root} ${root}/study.cpp)
    foreach(file ${faces} ${studies})
      get_filename_component(folder ${file} DIRECTORY)
      string(REGEX MATCHALL "[a-z0-9]+" words ${folder})
      set(name "")
      foreach(word ${words})
        if(name)
          string(SUBSTRING ${word} 0 1 first)
          string(TOUPPER ${first} first)
          string(SUBSTRING ${word} 1 -1 rest)
          string(APPEND name ${first}${rest})
        else()
          set(name ${word})
        endif()
      endforeach()
      if(file MATCHES "face.cpp$")
        list(APPEND topicNames ${name})
      else()
        list(APPEND studyNames ${name})
      endif()
    endforeach()
  endforeach()
  set(declarations "")
  set(entries "")
  foreach(name ${topicNames})
    string(APPEND declarations "sheet::Topic ${name}Topic();\n")
    string(APPEND entries "        all.push_back(physics::${name}Topic());\n")
  endforeach()
  file(CONFIGURE OUTPUT ${directory}/topics.cpp @ONLY CONTENT
"// Made by cmake/rooms.cmake from the folders of fields.
#include \"sheet/topic.h\"

#include <algorithm>

namespace yh {

namespace physics {
@declarations@}

const std::vector<sheet::Topic>& sheet::topics()
{
    static const std::vector<Topic> list = [] {
        std::vector<Topic> all;
@entries@        std::sort(all.begin(), all.end(), [](const Topic& a, const Topic& b) {
            return a.order != b.order ? a.order < b.order : a.key < b.key;
        });
        return all;
    }();
    return list;
}

}  // namespace yh
")
  set(declarations "")
  set(entries "")
  foreach(name ${studyNames})
    string(APPEND declarations "sheet::Topic ${name}Topic();
std::unique_ptr<Study> ${name}Study(const sheet::Model&, const shape::Partition&, base::Faults&);\n")
    string(APPEND entries "    if (key == ${name}Topic().key)\n        return ${name}Study(model, partition, faults);\n")
  endforeach()
  file(CONFIGURE OUTPUT ${directory}/studies.cpp @ONLY CONTENT
"// Made by cmake/rooms.cmake from the folders of fields.
#include \"physics/common/study.h\"
#include \"sheet/topic.h\"

namespace yh::physics {

@declarations@
std::unique_ptr<Study> studyOf(const sheet::Model& model, const shape::Partition& partition,
                               base::Faults& faults)
{
    return studyFor(sheet::topicOf(model.document()).key, model, partition, faults);
}

std::unique_ptr<Study> studyFor(const std::string& key, const sheet::Model& model,
                                const shape::Partition& partition, base::Faults& faults)
{
@entries@    throw base::Error(7015, \"nothing here solves a sheet about '\" + key + \"'\");
}

}  // namespace yh::physics
")
endfunction()
