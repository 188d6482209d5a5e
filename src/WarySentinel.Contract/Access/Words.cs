namespace WarySentinel.Contract.Access;

/// <summary>The owner's words on a password prompt; what is left out is said in ours.</summary>
public sealed record PromptWords(string? Heading = null, string? Text = null, string? Label = null, string? Placeholder = null, string? Button = null);

/// <summary>A link: its address, and the words that it is read by.</summary>
public sealed record SiteLink(string Address, string Words);
