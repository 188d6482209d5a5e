namespace WarySentinel.Service.Web.Acme;

/// <summary>Files that only the service may read.</summary>
internal static class SecretFile
{
    /// <summary>Writes one, whole or not at all.</summary>
    public static void Write(string file, string text)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(file)!);
        var fresh = file + ".new";
        File.Delete(fresh);
        using (var writing = new FileStream(fresh, new FileStreamOptions
        {
            Mode = FileMode.CreateNew, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
        }))
        {
            writing.Write(System.Text.Encoding.UTF8.GetBytes(text));
            writing.Flush(true);
        }

        File.Move(fresh, file, true);
    }
}
