#pragma once
#include <filesystem>
#include <string>

namespace cvane::command {

/// The file of a picture of a film, from 1 on: name-001.png beside the film's name.
std::filesystem::path numberedPicture(const std::filesystem::path& film, int number);

/// Joins numbered pictures into a film by ffmpeg. Says what is amiss; empty: nothing.
std::string joinPictures(const std::filesystem::path& film, double picturesASecond);

}  // namespace cvane::command
