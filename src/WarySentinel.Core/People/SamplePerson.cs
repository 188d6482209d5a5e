namespace WarySentinel.Core.People;

/// <summary>Somebody who is made up, to whom letters and pages are shown that staff look at.</summary>
public static class SamplePerson
{
    /// <summary>The name.</summary>
    public const string Name = "Ada Quill";

    /// <summary>The e-mail address.</summary>
    public const string Email = "ada@quill.example";

    /// <summary>The organisation that they belong to.</summary>
    public const string Organisation = "Hillcrest School";

    /// <summary>What an order of theirs is called.</summary>
    public const string Order = "FO-2031";
}
