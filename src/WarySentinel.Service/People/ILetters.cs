using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Service.People;

/// <summary>To whom a letter goes.</summary>
/// <param name="Address">The e-mail address.</param>
/// <param name="Name">How they are greeted; null where nobody knows.</param>
/// <param name="Language">The language that they read; null where nobody knows.</param>
public sealed record LetterReader(string Address, string? Name = null, string? Language = null)
{
    /// <summary>What they answered, where the letter may say it.</summary>
    public IReadOnlyList<FieldAnswer> Answers { get; init; } = [];

    /// <summary>A member.</summary>
    public static LetterReader Of(Member member) => new(member.Email, member.Name, member.Language);
}

/// <summary>Writes letters: each is a change, stored together with what it tells of.</summary>
public interface ILetters
{
    /// <summary>A letter of a kind, to be stored.</summary>
    /// <param name="kind">The key of the kind.</param>
    /// <param name="to">Who reads it.</param>
    /// <param name="values">What stands for the names in its template.</param>
    Change Write(string kind, LetterReader to, params IReadOnlyList<(string Name, string? Value)> values);

    /// <summary>The languages that there are letters in (RFC 5646).</summary>
    IReadOnlyList<string> Languages { get; }

    /// <summary>The letters that the owner has own words for, and none in that language, nor we: their key and title.</summary>
    IEnumerable<(string Key, string Title)> UntoldIn(string language);

    /// <summary>A moment as readers of a language read it, in the site's time zone.</summary>
    string Day(DateTimeOffset at, string? language);

    /// <summary>The address of one of our pages.</summary>
    string PageAt(string path);

    /// <summary>The whole address of a page of the guarded site.</summary>
    string PageOf(string address);

    /// <summary>The address of one of our pages with a link's secret in it.</summary>
    /// <param name="path">The page, such as <c>/password/set</c>.</param>
    /// <param name="secret">What stands in the link.</param>
    string LinkTo(string path, string secret);
}
