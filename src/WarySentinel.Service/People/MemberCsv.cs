using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.People;

/// <summary>A file of members cannot be read at all; says why.</summary>
public sealed class MemberFileException(Wording said) : Exception(said.ToString())
{
    /// <summary>Why, still to be worded.</summary>
    public Wording Said => said;
}

/// <summary>
/// Reads members from a file, row by row: CSV (RFC 4180) with comma, semicolon or tab, in UTF-8, UTF-16 or Windows-1252, its columns in any order; or an
/// <c>.htpasswd</c> file. It holds one row at a time.
/// </summary>
public sealed class MemberCsv : IDisposable
{
    private const int Telling = 64 * 1024;
    private const int LongestField = 20_000;

    private static readonly Dictionary<string, string> Synonyms = new(StringComparer.Ordinal)
    {
        ["email"] = "email", ["emailaddress"] = "email", ["mail"] = "email", ["address"] = "email", ["mailaddress"] = "email", ["name"] = "name",
        ["fullname"] = "name", ["displayname"] = "name", ["firstname"] = "first-name", ["givenname"] = "first-name", ["vorname"] = "first-name",
        ["lastname"] = "last-name", ["surname"] = "last-name", ["familyname"] = "last-name", ["nachname"] = "last-name", ["username"] = "user-name",
        ["login"] = "user-name", ["passwordhash"] = "password-hash", ["hash"] = "password-hash",
        ["status"] = "status", ["role"] = "roles", ["roles"] = "roles", ["group"] = "groups", ["groups"] = "groups", ["plan"] = "plans", ["plans"] = "plans",
        ["membership"] = "plans", ["joined"] = "joined", ["registered"] = "joined", ["membersince"] = "joined", ["created"] = "joined", ["until"] = "until",
        ["expires"] = "until", ["enddate"] = "until", ["language"] = "language", ["lang"] = "language", ["locale"] = "language", ["sprache"] = "language",
    };

    private readonly CsvReader csv;
    private readonly string[] fields;
    private readonly string? domain;

    /// <summary>Reads the head of a file. Throws <see cref="MemberFileException"/> where it is no file of members.</summary>
    /// <param name="file">The file, which can be read twice.</param>
    /// <param name="map">Columns and the fields that they are taken for, where that is not to be told by their names; an empty field leaves one out.</param>
    /// <param name="domain">What makes an address of a bare name in an <c>.htpasswd</c> file.</param>
    public MemberCsv(Stream file, IReadOnlyDictionary<string, string> map, string? domain)
    {
        this.domain = domain;
        var begin = new byte[Telling];
        var read = file.ReadAtLeast(begin, begin.Length, false);
        file.Position = 0;
        var encoding = EncodingOf(begin.AsSpan(0, read));
        var firstLine = encoding.GetString(begin, 0, read).TrimStart('\uFEFF').Split('\n', 2)[0].TrimEnd('\r');
        EncodingName = encoding.WebName;
        IsHtpasswd = !firstLine.Contains(',', StringComparison.Ordinal) && !firstLine.Contains(';', StringComparison.Ordinal)
            && firstLine.Split(':') is [{ Length: > 0 }, var hash] && ForeignHashes.IsKnown(hash.Trim());
        Delimiter = IsHtpasswd ? ":" : CsvSign.Of(firstLine);
        csv = new CsvReader(new StreamReader(file, encoding, true, -1, true), new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = Delimiter, TrimOptions = TrimOptions.Trim, BadDataFound = null, MissingFieldFound = null, HasHeaderRecord = !IsHtpasswd,
            MaxFieldSize = LongestField, Mode = IsHtpasswd ? CsvMode.NoEscape : CsvMode.RFC4180,
        });
        fields = IsHtpasswd ? ["user-name", "password-hash"] : ReadHeader(map);
    }

    /// <summary>The name of the encoding (IANA).</summary>
    public string EncodingName { get; }

    /// <summary>The sign between fields.</summary>
    public string Delimiter { get; }

    /// <summary>Whether it is no CSV but a file of names and hashes.</summary>
    public bool IsHtpasswd { get; }

    /// <summary>Whether columns hold answers to fields.</summary>
    public bool HasAnswers { get; private set; }

    /// <summary>The columns and what each is taken for.</summary>
    public IReadOnlyList<MemberImportColumn> Columns { get; private set; } = [];

    /// <inheritdoc/>
    public void Dispose() => csv.Dispose();

    /// <summary>The rows that say anything. Throws <see cref="MemberFileException"/> where the file is none from some line on.</summary>
    public IEnumerable<(int Line, string[] Record)> Records()
    {
        while (true)
        {
            var line = csv.Parser.RawRow + 1;
            try
            {
                if (!csv.Read())
                {
                    yield break;
                }
            }
            catch (Exception fault) when (fault is CsvHelperException or DecoderFallbackException)
            {
                throw new MemberFileException(Wording.Of("members.bad-row", line, fault.Message.Split('\n')[0]));
            }

            if (csv.Parser.Record is { } record && Array.Exists(record, f => f.Length > 0))
            {
                yield return (line, record);
            }
        }
    }

    /// <summary>What the row answers. A sign that keeps a spreadsheet from reckoning is none of it: our own export writes it.</summary>
    private IReadOnlyList<KeyValuePair<string, string>> AnswersOf(string[] record) => !HasAnswers ? [] :
    [
        .. fields.Zip(record).Where(c => c.First.StartsWith(ImportRow.AnswerPrefix, StringComparison.Ordinal) && c.Second.Length > 0).Select(c =>
            KeyValuePair.Create(c.First[ImportRow.AnswerPrefix.Length..], c.Second is ['\'', '=' or '+' or '-' or '@', ..] ? c.Second[1..] : c.Second)),
    ];

    /// <summary>What the fields of a row say.</summary>
    public ImportRow RowOf(string[] record, int line)
    {
        string? Of(string field)
        {
            var place = Array.IndexOf(fields, field);
            return place >= 0 && place < record.Length && record[place].Length > 0 ? record[place] : null;
        }

        string[] Many(string field) =>
            Of(field)?.Split(['|', ';', ','], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) ?? [];
        var both = string.Join(' ', new[] { Of("first-name"), Of("last-name") }.OfType<string>());
        var user = Of("user-name");
        var bare = IsHtpasswd && user?.Contains('@', StringComparison.Ordinal) != true;
        return new ImportRow(line)
        {
            Email = Of("email") ?? (!IsHtpasswd ? null : !bare ? user : domain is null ? user : $"{user}@{domain}"),
            Name = Of("name") ?? (both.Length > 0 ? both : null),
            UserName = IsHtpasswd && !bare ? null : user, PasswordHash = Of("password-hash"), Status = Of("status"), Roles = Many("roles"),
            Groups = Many("groups"), Plans = Many("plans"), Joined = Of("joined"), Until = Of("until"),
            // As programs write it: de_AT.
            Language = Of("language")?.Replace('_', '-'), Answers = AnswersOf(record),
        };
    }

    private string[] ReadHeader(IReadOnlyDictionary<string, string> map)
    {
        string[] header;
        try
        {
            header = csv.Read() && csv.ReadHeader() ? csv.HeaderRecord ?? [] : [];
        }
        catch (CsvHelperException)
        {
            throw new MemberFileException(Wording.Of("members.no-file"));
        }

        if (header.Length is 0 or > 200 || header.Any(h => h.Any(char.IsControl)))
        {
            throw new MemberFileException(Wording.Of("members.no-file"));
        }

        if (map.Keys.FirstOrDefault(k => !header.Contains(k)) is { } unknown)
        {
            throw new MemberFileException(Wording.Of("members.no-column", unknown, string.Join(", ", header)));
        }

        if (map.Values.FirstOrDefault(f => f.Length > 0 && !ImportRow.Fields.Contains(f) && !IsAnswer(f)) is { } odd)
        {
            throw new MemberFileException(Wording.Of("problem.not-one-of", odd, string.Join(", ", ImportRow.Fields)));
        }

        var taken = Array.ConvertAll(header, h => map.TryGetValue(h,
            out var said) ? said : IsAnswer(h.Trim()) ? h.Trim() : Synonyms.GetValueOrDefault(Bare(h), ""));
        for (var i = 0; i < taken.Length; i++)
        {
            // The first of two columns for the same counts, unless one was chosen.
            taken[i] = Array.IndexOf(taken, taken[i]) < i && !map.ContainsKey(header[i]) ? "" : taken[i];
        }

        HasAnswers = Array.Exists(taken, IsAnswer);
        Columns = [.. header.Zip(taken, (h, f) => new MemberImportColumn(h, f))];
        return taken.Contains("email") ? taken : throw new MemberFileException(Wording.Of("members.no-email", string.Join(", ", header)));
    }

    private static bool IsAnswer(string field) => field.Length > ImportRow.AnswerPrefix.Length && field.StartsWith(ImportRow.AnswerPrefix,
        StringComparison.Ordinal);

    private static string Bare(string head) => new([.. head.ToLowerInvariant().Where(char.IsLetterOrDigit)]);

    /// <summary>By its mark; else UTF-16 where every other byte is nothing; else UTF-8 where it is that; else Windows-1252.</summary>
    private static Encoding EncodingOf(ReadOnlySpan<byte> begin)
    {
        if (Charset.ByMark(begin) is { } marked)
        {
            return marked;
        }

        if (begin.Length > 3 && ((begin[1] == 0 && begin[3] == 0) || (begin[0] == 0 && begin[2] == 0)))
        {
            return begin[1] == 0 ? Encoding.Unicode : Encoding.BigEndianUnicode;
        }

        if (begin.Contains((byte)0))
        {
            throw new MemberFileException(Wording.Of("members.no-file"));
        }

        return Charset.ByTrial(begin);
    }
}
