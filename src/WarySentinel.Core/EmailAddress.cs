namespace WarySentinel.Core;

/// <summary>E-mail addresses as they are kept and compared.</summary>
public static class EmailAddress
{
    /// <summary>The form in which e-mail addresses are compared; null when it is none (a pragmatic reading of RFC 5321 §4.1.2).</summary>
    public static string? Normalise(string? typed)
    {
        var email = Spelling.Composed(typed?.Trim().ToLowerInvariant() ?? "");
        var at = email.LastIndexOf('@');
        return at > 0 && at < email.Length - 3 && email.Length <= 254 && email.IndexOf('.', at) > at + 1 && email[^1] != '.'
            && PlainText.IsClean(email) && !email.Any(c => char.IsWhiteSpace(c)
            || c is '<' or '>' or '(' or ')' or ',' or ';' or ':' or '"' or '\\' or '[' or ']')
            && email.IndexOf('@', StringComparison.Ordinal) == at ? email : null;
    }
}
