namespace WarySentinel.Core.Audio;

/// <summary>The media types (RFC 6838) of files that are listened to and of pictures, by the ending of their names.</summary>
public static class MediaType
{
    private static readonly Dictionary<string, string> Heard = new(StringComparer.OrdinalIgnoreCase)
    {
        [".mp3"] = "audio/mpeg", [".m4a"] = "audio/mp4", [".m4b"] = "audio/mp4", [".aac"] = "audio/aac", [".ogg"] = "audio/ogg", [".oga"] = "audio/ogg",
        [".opus"] = "audio/ogg", [".flac"] = "audio/flac", [".wav"] = "audio/wav", [".weba"] = "audio/webm", [".mp4"] = "video/mp4", [".m4v"] = "video/mp4",
        [".webm"] = "video/webm",
    };

    private static readonly Dictionary<string, string> Seen = new(StringComparer.OrdinalIgnoreCase)
    { [".jpg"] = "image/jpeg", [".jpeg"] = "image/jpeg", [".png"] = "image/png", [".webp"] = "image/webp" };

    /// <summary>The endings that are heard, in words.</summary>
    public static string Endings => string.Join(", ", Heard.Keys);

    /// <summary>The endings of pictures, in words.</summary>
    public static string PictureEndings => string.Join(", ", Seen.Keys);

    /// <summary>The type of a file that is listened to; null where its name does not end like one.</summary>
    public static string? OfEpisode(string file) => Heard.GetValueOrDefault(EndingOf(file));

    /// <summary>The type of a picture; null where its name does not end like one.</summary>
    public static string? OfPicture(string file) => Seen.GetValueOrDefault(EndingOf(file));

    /// <summary>The ending of a name, with its point, in small letters; empty for none.</summary>
    public static string EndingOf(string file) => file.LastIndexOf('.') is >= 0 and var point && point > file.LastIndexOf('/')
        ? file[point..].ToLowerInvariant() : "";
}
