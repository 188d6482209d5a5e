using System.Buffers;
using System.Text;
using System.Text.Unicode;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Service.Catalogue;

/// <summary>Reads the bytes of an import as text, or says what they are instead. Looked at piece by piece: never held as a whole.</summary>
public static class ImportText
{
    /// <summary>Most rows taken in one import.</summary>
    public const int MostRows = 1_000_000;

    /// <summary>Longest line that a catalogue could have, in characters.</summary>
    private const int LongestLine = 1 << 20;

    private const int PieceBytes = 64 * 1024;

    /// <summary>
    /// Checks a file from its beginning: null where it is text in UTF-8, else what is wrong and where. The file stands at its beginning
    /// again, behind a byte order mark.
    /// </summary>
    public static async Task<Problem?> CheckAsync(Stream file, CancellationToken cancellationToken)
    {
        var bytes = new byte[PieceBytes];
        var characters = new char[PieceBytes];
        var (line, inLine, kept, offset) = (1, 0, 0, 0L);
        var mark = 0;
        while (true)
        {
            var read = await file.ReadAsync(bytes.AsMemory(kept), cancellationToken);
            var have = kept + read;
            if (offset == 0 && have > 1 && (bytes.AsSpan(0, 2) is [0xFF, 0xFE] or [0xFE, 0xFF]))
            {
                return Bad("import.utf16", null);
            }

            mark = offset == 0 && bytes.AsSpan(0, have) is [0xEF, 0xBB, 0xBF, ..] ? 3 : mark;
            var status = Utf8.ToUtf16(bytes.AsSpan(0, have), characters, out var used, out var written, false, read == 0);
            foreach (var c in characters.AsSpan(0, written))
            {
                inLine = c == '\n' ? 0 : inLine + 1;
                line += c == '\n' ? 1 : 0;
                if (c == '\0')
                {
                    return Bad("import.binary", line, offset + bytes.AsSpan(0, have).IndexOf((byte)0) + 1);
                }

                if (inLine > LongestLine)
                {
                    return Bad("import.line-too-long", line, LongestLine);
                }
            }

            if (status == OperationStatus.InvalidData || (read == 0 && used < have))
            {
                return Bad("import.not-utf8", line, offset + used + 1);
            }

            if (read == 0)
            {
                file.Position = mark;
                return null;
            }

            bytes.AsSpan(used, have - used).CopyTo(bytes);
            kept = have - used;
            offset += used;
        }
    }

    /// <summary>A reader of a file that was found to be text, from where it stands.</summary>
    public static StreamReader ReaderOf(Stream file) => new(file, new UTF8Encoding(false, true), false, PieceBytes, true);

    private static Problem Bad(string key, int? line, params object?[] values)
    {
        var said = Wording.Of(key, values);
        return new Problem(ProblemKind.Invalid, key.Replace("import.", "import-", StringComparison.Ordinal), said,
            [new Fault("file", said, line, line is null ? null : 1)]);
    }
}

/// <summary>Reads items out of the site as YAML, with what is wrong with them.</summary>
/// <param name="text">The text.</param>
/// <param name="reading">Told how many are read.</param>
/// <param name="stop">Cancels.</param>
public delegate (IReadOnlyList<ItemDraft> Items, IReadOnlyList<Fault> Faults) ReadYamlItems(TextReader text, Action<int> reading, CancellationToken stop);
