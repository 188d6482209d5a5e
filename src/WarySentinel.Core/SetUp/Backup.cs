namespace WarySentinel.Core.SetUp;

/// <summary>Everything that is kept was copied: nothing is to be stored but that it happened, and by whom.</summary>
public sealed record BackupTaken : Change.OfPeople
{
    /// <summary>The edit that writes it down.</summary>
    /// <param name="bytes">How large the database was, in bytes.</param>
    /// <param name="withFiles">Whether the files of folders to download from went along.</param>
    public static Edit<bool> Edit(long bytes, bool withFiles) =>
        new(new Edit("backup.take", "site", [new BackupTaken()], null, $"{bytes} B{(withFiles ? " +" : "")}"), true);
}
